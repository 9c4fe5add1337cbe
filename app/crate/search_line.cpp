#include "crate/search_line.h"

#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/label.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

SearchLine::SearchLine(Panel& host, CrateService& crate, QWidget* parent)
    : Panel(host, parent), m_crate(crate) {
  m_words = new QLineEdit(this);
  m_words->setAccessibleName(tr("Search the crate"));
  m_words->setPlaceholderText(tr("a name, or: is loop  85-95 bpm  near beat"));
  m_words->setToolTip(
      tr("Search names, folders, tags, rights and origin, and by what was heard (Ctrl+F). "
         "Narrow shows every way to ask."));
  m_words->setClearButtonEnabled(true);
  m_words->installEventFilter(this);
  for (auto* button : m_words->findChildren<QAbstractButton*>()) {
    button->setAccessibleName(tr("Clear the search"));
    button->setToolTip(tr("Clear the search (Escape)"));
  }
  m_narrow = new Button(tr("Narrow"), tr("Every way to ask; each writes its words for you"), this);
  m_kept =
      new Button(tr("Kept"), tr("Keep this search under its words, or take one up again"), this);
  m_narrow->setOpens(true);
  m_kept->setOpens(true);
  m_order = new Combo(tr("Order"), tr("What stands first"), this);
  m_order->addItems({tr("by reach"), tr("by name"), tr("newest"), tr("by tempo"), tr("by length"),
                     tr("by stars")});
  m_reading = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_reading->setWraps(true);
  auto* line = new QHBoxLayout;
  line->setSpacing(px(6));
  line->addWidget(m_words, 1);
  line->addWidget(m_narrow);
  line->addWidget(m_kept);
  auto* under = new QHBoxLayout;
  under->setSpacing(px(6));
  under->addWidget(m_reading, 1);
  under->addWidget(m_order, 0, Qt::AlignTop);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  all->setSpacing(px(6));
  all->addLayout(line);
  all->addLayout(under);
  connect(m_words, &QLineEdit::textChanged, this, &SearchLine::changed);
  connect(m_order, &QComboBox::currentIndexChanged, this, &SearchLine::changed);
  connect(m_narrow, &QAbstractButton::clicked, this, &SearchLine::showNarrow);
  connect(m_kept, &QAbstractButton::clicked, this, &SearchLine::showKept);
  understand();
}

Query SearchLine::query() const { return readQuery(m_words->text().toStdString()); }
CrateOrder SearchLine::order() const { return CrateOrder(m_order->currentIndex()); }
QString SearchLine::words() const { return m_words->text(); }
void SearchLine::setOrdered(bool ordered) {
  m_order->setVisible(ordered);
  m_kept->setVisible(ordered);
}
void SearchLine::setWords(const QString& words) { m_words->setText(words); }

void SearchLine::setCount(int found, int total) {
  m_found = found;
  m_total = total;
  understand();
}

void SearchLine::setLike(const QString& name) {
  m_like = name;
  understand();
}

void SearchLine::focusWords() {
  m_words->setFocus();
  m_words->selectAll();
}

void SearchLine::understand() {
  QStringList parts;
  const Query asked = query();
  for (const auto& phrase : asked.reading) parts << QString::fromStdString(phrase);
  if (asked.likeThis)
    parts.replaceInStrings(QStringLiteral("like this one, nearest first"),
                           m_like.isEmpty()
                               ? tr("choose a source that was heard, then ask for its like")
                               : tr("like %1, nearest first").arg(m_like));
  m_order->setEnabled(!asked.likeThis);
  const QString count = m_words->text().trimmed().isEmpty()
                            ? counted(m_total, tr("source"), tr("sources"))
                            : tr("%1 of %2").arg(m_found).arg(m_total);
  parts.prepend(count);
  m_reading->setText(parts.join(QStringLiteral(" · ")));
}

void SearchLine::add(const QString& words) {
  const QString text = m_words->text().trimmed();
  m_words->setText(text.isEmpty() ? words : text + QLatin1Char(' ') + words);
  m_words->setFocus();
}

void SearchLine::showNarrow() {
  QMenu menu(this);
  for (const auto& form : queryForms()) {
    const QString words = QString::fromUtf8(form.words);
    menu.addAction(QStringLiteral("%1\t%2").arg(words, QString::fromUtf8(form.meaning)), this,
                   [this, words] { add(words); });
  }
  menu.exec(m_narrow->mapToGlobal(QPoint(0, m_narrow->height() + px(2))));
}

void SearchLine::showKept() {
  QMenu menu(this);
  Crate* crate = m_crate.crate();
  if (!crate) return;
  const QString words = m_words->text().trimmed();
  const auto all = crate->searches();
  bool known = false;
  if (all)
    for (const auto& [name, kept] : *all) {
      const QString text = QString::fromStdString(kept);
      known = known || text == words;
      menu.addAction(QString::fromStdString(name), this, [this, text] { setWords(text); });
    }
  if (!menu.isEmpty()) menu.addSeparator();
  auto* keep = menu.addAction(known ? tr("Forget “%1”").arg(words) : tr("Keep “%1”").arg(words));
  keep->setEnabled(!words.isEmpty());
  if (words.isEmpty()) keep->setText(tr("Type a search to keep it here"));
  connect(keep, &QAction::triggered, this, [this, crate, words, known] {
    const auto done =
        crate->keepSearch(words.toStdString(), known ? std::string() : words.toStdString());
    if (!done) emit message(QString::fromStdString(done.error().text()), true);
  });
  menu.exec(m_kept->mapToGlobal(QPoint(0, m_kept->height() + px(2))));
}

bool SearchLine::eventFilter(QObject* watched, QEvent* event) {
  if (watched == m_words && event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Down || key == Qt::Key_Return || key == Qt::Key_Enter) {
      emit leave();
      return true;
    }
    if (key == Qt::Key_Escape && !m_words->text().isEmpty()) {
      m_words->clear();
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

} // namespace tuvvo
