#include "shell/finder.h"

#include "shell/rail.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace tuvvo {

using theme::px;

namespace {
constexpr std::size_t kMostFound = 80;
} // namespace

Finder::Finder(const QList<QAction*>& actions, QWidget* parent)
    : QWidget(parent), m_actions(actions) {
  setAccessibleName(tr("Find a command"));
  m_edit = new QLineEdit(this);
  m_edit->setPlaceholderText(tr("What do you want to do?"));
  m_edit->setAccessibleName(tr("Command"));
  m_list = new QListWidget(this);
  m_list->setAccessibleName(tr("Commands found"));
  m_list->setObjectName(QStringLiteral("found"));
  m_list->setFocusPolicy(Qt::NoFocus);
  m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(10), px(10), px(10), px(10));
  column->setSpacing(px(8));
  column->addWidget(m_edit);
  column->addWidget(m_list);
  m_edit->installEventFilter(this);
  connect(m_edit, &QLineEdit::textChanged, this, &Finder::refill);
  connect(m_list, &QListWidget::itemClicked, this, [this] { run(); });
  hide();
}

int Finder::match(const QString& wanted, const QString& text) {
  int score = 1; // every text holds no letters at all
  qsizetype at = 0;
  for (const QChar letter : wanted.simplified().toLower()) {
    if (letter.isSpace()) continue;
    const qsizetype found = text.toLower().indexOf(letter, at);
    if (found < 0) return -1;
    const bool begins = found == 0 || text[found - 1].isSpace();
    score += found == at && at > 0 ? 4 : begins ? 6 : 1;
    at = found + 1;
  }
  return std::max(0, score * 100 - int(text.size()));
}

void Finder::open(std::vector<FoundControl> controls) {
  m_controls = std::move(controls);
  const QRect around = parentWidget()->rect();
  const int width = std::min(around.width() - px(40), px(460));
  setGeometry((around.width() - width) / 2, px(80), width,
              std::min(around.height() - px(120), px(380)));
  m_edit->clear();
  refill();
  show();
  raise();
  m_edit->setFocus();
}

void Finder::refill() {
  struct Entry {
    int score;
    QAction* action; ///< or else a control
    qsizetype control;
  };
  std::vector<Entry> found;
  for (QAction* action : std::as_const(m_actions))
    if (const int score = match(m_edit->text(), action->text()); score >= 0 && action->isEnabled())
      found.push_back({score, action, -1});
  // In the order of the menus until something is asked for.
  if (!m_edit->text().trimmed().isEmpty()) {
    for (std::size_t i = 0; i < m_controls.size(); ++i)
      if (const int score = match(m_edit->text(), m_controls[i].name); score >= 0)
        found.push_back({score, nullptr, qsizetype(i)});
    std::stable_sort(found.begin(), found.end(),
                     [](const Entry& a, const Entry& b) { return a.score > b.score; });
    if (found.size() > kMostFound) found.resize(kMostFound, Entry{});
  }
  m_list->clear();
  for (const auto& entry : found) {
    QString text;
    if (entry.action) {
      const QString keys = entry.action->shortcut().toString(QKeySequence::NativeText);
      text = keys.isEmpty() ? entry.action->text()
                            : QStringLiteral("%1   (%2)").arg(entry.action->text(), keys);
    } else {
      const auto& control = m_controls[std::size_t(entry.control)];
      text = tr("%1, on %2").arg(control.name, stageName(control.stage));
    }
    auto* item = new QListWidgetItem(text, m_list);
    item->setData(Qt::UserRole, QVariant::fromValue<void*>(entry.action));
    item->setData(Qt::UserRole + 1, entry.control);
    if (entry.action)
      item->setToolTip(entry.action->toolTip());
    else if (const auto& widget = m_controls[std::size_t(entry.control)].control)
      item->setToolTip(widget->toolTip());
  }
  m_list->setCurrentRow(0);
}

void Finder::run() {
  QListWidgetItem* item = m_list->currentItem();
  hide();
  parentWidget()->setFocus();
  if (!item) return;
  if (auto* action = static_cast<QAction*>(item->data(Qt::UserRole).value<void*>()))
    return action->trigger();
  const FoundControl control = m_controls[item->data(Qt::UserRole + 1).toULongLong()];
  emit controlWanted(control);
}

bool Finder::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    const int row = m_list->currentRow();
    if (key == Qt::Key_Escape) {
      hide();
      parentWidget()->setFocus();
      return true;
    }
    if (key == Qt::Key_Return || key == Qt::Key_Enter) {
      run();
      return true;
    }
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
      m_list->setCurrentRow(
          std::clamp(row + (key == Qt::Key_Down ? 1 : -1), 0, std::max(0, m_list->count() - 1)));
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

void Finder::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.fillRect(rect(), c.ground); // under the round corners
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(c.brass, 1));
  p.setBrush(c.panel);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), px(8), px(8));
}

} // namespace tuvvo
