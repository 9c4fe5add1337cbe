// The phrases view: a long take's phrases, the ones that fit first.
#pragma once

#include "panel/panel.h"
#include "session/auditions.h"
#include "session/phrase_service.h"
#include "widgets/combo.h"

#include <QListWidget>

namespace tuvvo {

class Button;
class ControlRow;
class Label;

/// The whole take in one line with its phrases; a click chooses one.
class TakePicture : public Panel {
  Q_OBJECT
public:
  TakePicture(Panel& host, PhraseService& sifter, QWidget* parent);
  void choose(Frames start);
  [[nodiscard]] QSize sizeHint() const override;

signals:
  void chosen(Frames start);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;

private:
  [[nodiscard]] double xOf(Frames at) const;

  PhraseService& m_phrases;
  Frames m_chosen{-1};
};

class PhraseView : public Panel {
  Q_OBJECT
public:
  PhraseView(Panel& host, PhraseService& sifter, Auditions& auditions, QWidget* parent);
  [[nodiscard]] QListWidget& list() { return *m_list; }

private:
  void makeTop(ControlRow& row);
  void makeActs(ControlRow& row);
  void refresh();
  void refreshActs();
  [[nodiscard]] int current() const;

  PhraseService& m_phrases;
  Combo *m_takes, *m_order;
  Button *m_hear, *m_beside, *m_star, *m_keep, *m_keepStarred, *m_drop, *m_back;
  Label* m_about;
  TakePicture* m_picture;
  QListWidget* m_list;
  std::int64_t m_chosen = -1;               ///< frame at which the chosen phrase begins
  bool m_filling = false, m_byHand = false; ///< a phrase was chosen by the person
};

} // namespace tuvvo
