// What has happened, what is being worked on, and what is offered, in one row under the stage.
#pragma once

#include <QTimer>
#include <QWidget>

namespace tuvvo {

class Button;
class JobService;
class Label;

/// Hidden while there is nothing to say. A message goes after a while, an offer when it is
/// answered.
class MessageBar : public QWidget {
  Q_OBJECT
public:
  MessageBar(JobService& jobs, QWidget* parent);
  /// @param trouble  shown in coral, and for longer
  void say(const QString& text, bool trouble);
  /// Stays until somebody answers it or closes it; messages are shown in its place for their time.
  /// @param act  what to do when the offer is taken
  void offer(const QString& text, const QString& answer, std::function<void()> act);

private:
  void close();
  void refresh();
  void show(const QString& text, bool trouble);

  struct Offer {
    QString text, answer;
    std::function<void()> act;
  };

  JobService& m_jobs;
  Label *m_message, *m_job;
  Button *m_answer, *m_cancel, *m_close;
  QTimer m_timer;
  std::optional<Offer> m_offer;
  bool m_saying = false; ///< a message is over the offer
};

} // namespace tuvvo
