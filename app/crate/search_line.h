// Search as you type, what was understood of it, the order, and searches that are kept.
#pragma once

#include "panel/panel.h"
#include "session/crate_service.h"

#include <QWidget>

class QComboBox;
class QLineEdit;

namespace tuvvo {

class Button;
class Label;

class SearchLine : public Panel {
  Q_OBJECT
public:
  SearchLine(Panel& host, CrateService& crate, QWidget* parent);
  [[nodiscard]] Query query() const;
  [[nodiscard]] CrateOrder order() const;
  /// The service has an order of its own.
  void setOrdered(bool ordered);
  void setWords(const QString& words);
  [[nodiscard]] QString words() const;
  /// What "this one" is, for people; empty: nothing yet.
  void setLike(const QString& name);
  /// Shown after what was understood: "214 of 1024".
  void setCount(int found, int total);
  void focusWords();

signals:
  void changed();
  /// Down or Enter: on to the list.
  void leave();

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void showNarrow();
  void showKept();
  void add(const QString& words);
  void understand();

  CrateService& m_crate;
  QLineEdit* m_words;
  Label* m_reading;
  QComboBox* m_order;
  Button *m_narrow, *m_kept;
  QString m_like;
  int m_found = 0, m_total = 0;
};

} // namespace tuvvo
