#include "crate/crate_stage.h"

#include "crate/reach_map.h"
#include "crate/source_card.h"
#include "model/edits.h"
#include "shell/choose_sounds.h"
#include "theme/theme.h"
#include "widgets/combo.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {

/// One source a row: name, length, tempo, key; a mark when no permission is recorded.
class SourceRow : public QStyledItemDelegate {
public:
  SourceRow(Session& session, QObject* parent) : QStyledItemDelegate(parent), m_session(session) {}
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {px(200), px(46)};
  }
  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const auto& c = theme::colours();
    const Source* source = findSource(m_session.project(), Id(index.data(Qt::UserRole).toUInt()));
    if (!source) return;
    p->save();
    p->setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(option.rect).adjusted(2, 2, -4, -2);
    const bool selected = option.state & QStyle::State_Selected;
    p->setPen(Qt::NoPen);
    p->setBrush(selected ? c.raised : c.panel);
    p->drawRoundedRect(box, 6, 6);
    if (selected) p->fillRect(QRectF(box.left(), box.top() + 4, 3, box.height() - 8), c.brass);
    const double w = box.width() - px(24);
    const QRectF top(box.left() + px(12), box.top() + px(4), w, box.height() / 2 - px(3));
    const QRectF low(top.left(), top.bottom(), w, box.height() / 2 - px(3));
    theme::drawText(*p, top.adjusted(0, 0, -px(90), 0), Qt::AlignLeft | Qt::AlignVCenter,
                    QString::fromStdString(source->name), theme::Type::Strong, c.text);
    theme::drawText(*p, top, Qt::AlignRight | Qt::AlignVCenter, tempoText(*source),
                    theme::Type::Small, c.text);
    const bool unrecorded = source->papers.recording == Permission::Unrecorded;
    const QString second =
        unrecorded ? CrateStage::tr("%1 · no permission recorded").arg(lengthText(*source))
                   : lengthText(*source);
    theme::drawText(*p, low.adjusted(0, 0, -px(60), 0), Qt::AlignLeft | Qt::AlignVCenter, second,
                    theme::Type::Small, unrecorded ? c.coral : c.quiet);
    if (!source->kit)
      theme::drawText(*p, low, Qt::AlignRight | Qt::AlignVCenter, keyText(*source),
                      theme::Type::Small, c.quiet);
    p->restore();
  }

private:
  Session& m_session;
};

} // namespace

CrateStage::CrateStage(Session& session, QWidget* parent) : StageView(session, parent) {
  m_clock.start();
  m_list = new QListWidget(this);
  m_list->setAccessibleName(tr("Sources"));
  m_list->setItemDelegate(new SourceRow(session, m_list));
  m_list->setStyleSheet(QStringLiteral("QListWidget { background: transparent; border: none; }"));
  m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  m_card = new SourceCard(session, this);
  m_add = new Chip(tr("Add sounds"), tr("Add sound files (Ctrl+I), or drop them anywhere"), this);
  m_kit = new Chip(tr("With the kit"), tr("Show the drums that ship as well"), this);
  m_kit->setCheckable(true);
  m_hear = new Chip(tr("Hear"),
                    tr("Hear it at the beat's tempo; again to stop (Enter in the list)"), this);
  m_half = new Chip(tr("÷2"), tr("Its tempo is half of that (Ctrl+−)"), this);
  m_double = new Chip(tr("×2"), tr("Its tempo is twice that (Ctrl+=)"), this);
  m_tap = new Chip(tr("Tap"), tr("Tap this source's tempo while it plays (Ctrl+Shift+T)"), this);
  m_heardAgain = new Chip(tr("As heard"), tr("Take back what you corrected"), this);
  m_cut = new Chip(tr("Cut it"), tr("To the Cut stage (F2)"), this);
  m_remove = new Chip(tr("Remove"), tr("Take it out of this beat; can be undone (Delete)"), this);
  m_permission =
      new Combo(tr("Permission"),
                tr("What is known about the right to use it. A record, not legal advice."), this);
  m_permission->addItems({tr("No permission recorded"), tr("Own work"), tr("Permission granted"),
                          tr("Permission asked"), tr("Open licence")});
  m_rightsNote = new QLineEdit(this);
  m_rightsNote->setAccessibleName(tr("Note on rights"));
  m_rightsNote->setPlaceholderText(tr("who, when, where it is written"));

  auto* title = new QLabel(tr("Sources"), this);
  title->setFont(theme::font(theme::Type::Title));
  auto* top = new QHBoxLayout;
  top->setSpacing(px(6));
  top->addWidget(title);
  top->addStretch();
  top->addWidget(m_kit);
  top->addWidget(m_add);
  auto* left = new QVBoxLayout;
  left->setSpacing(px(8));
  left->addLayout(top);
  left->addWidget(m_list, 1);
  auto* correct = new QHBoxLayout;
  correct->setSpacing(px(6));
  for (Chip* chip : {m_hear, m_half, m_double, m_tap, m_heardAgain}) correct->addWidget(chip);
  correct->addStretch();
  correct->addWidget(m_cut);
  correct->addWidget(m_remove);
  auto* rights = new QHBoxLayout;
  rights->setSpacing(px(6));
  rights->addWidget(m_permission);
  rights->addWidget(m_rightsNote, 1);
  auto* right = new QVBoxLayout;
  right->setSpacing(px(8));
  right->addWidget(m_card);
  right->addLayout(correct);
  right->addLayout(rights);
  right->addWidget(new ReachMap(session, this), 1);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(px(20), px(14), px(14), px(12));
  row->setSpacing(px(16));
  row->addLayout(left, 4);
  row->addLayout(right, 6);

  setFocusProxy(m_list);
  const auto current = [this] { return m_session.selection().source; };
  connect(m_list, &QListWidget::currentRowChanged, this, [this](int at) {
    if (m_filling || at < 0) return;
    m_session.selectSource(Id(m_list->item(at)->data(Qt::UserRole).toUInt()));
    if (m_session.auditioned()) m_session.audition(m_session.selection().source);
  });
  const auto hear = [this, current] {
    m_session.audition(m_session.auditioned() == current() ? 0 : current());
  };
  connect(m_list, &QListWidget::itemActivated, this, hear);
  connect(m_hear, &QAbstractButton::clicked, this, hear);
  connect(m_kit, &QAbstractButton::toggled, this, [this](bool on) {
    m_showKit = on;
    refill();
  });
  connect(m_add, &QAbstractButton::clicked, this, [this] { chooseSounds(m_session, this); });
  auto* half = addCommand(tr("Half its tempo"), QKeySequence(Qt::CTRL | Qt::Key_Minus),
                          [this] { correctTempo(0.5); });
  auto* twice = addCommand(tr("Double its tempo"), QKeySequence(Qt::CTRL | Qt::Key_Equal),
                           [this] { correctTempo(2); });
  auto* tap = addCommand(tr("Tap its tempo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_T),
                         [this] { tapSource(); });
  auto* remove = addCommand(tr("Remove the source"), QKeySequence(Qt::Key_Delete), [this, current] {
    if (const Source* s = findSource(m_session.project(), current()))
      m_session.edit(tr("Remove %1").arg(QString::fromStdString(s->name)),
                     withoutSource(m_session.project(), s->id));
  });
  auto* again = addCommand(tr("Take back corrections"), {}, [this, current] {
    m_session.edit(
        tr("Take back corrections"),
        withSourceChanged(m_session.project(), current(), [](Source& s) { s.corrections = {}; }));
  });
  addCommand(tr("Put it on the deck"), QKeySequence(Qt::CTRL | Qt::Key_Return), [this, current] {
    const Source* s = findSource(m_session.project(), current());
    if (!s) return;
    const Row row2 = suggestedRow(*s);
    const auto column = freeColumn(m_session.project(), row2);
    if (!column) {
      emit m_session.message(tr("That row of the deck is full. Right-click a key to put it there."),
                             true);
      return;
    }
    m_session.edit(tr("Put %1 on the deck").arg(QString::fromStdString(s->name)),
                   withKeySound(m_session.project(), row2, *column, 0, {s->id, 0}, s->name));
  });
  connect(m_half, &QAbstractButton::clicked, half, &QAction::trigger);
  connect(m_double, &QAbstractButton::clicked, twice, &QAction::trigger);
  connect(m_tap, &QAbstractButton::pressed, tap, &QAction::trigger);
  connect(m_remove, &QAbstractButton::clicked, remove, &QAction::trigger);
  connect(m_heardAgain, &QAbstractButton::clicked, again, &QAction::trigger);
  connect(m_cut, &QAbstractButton::clicked, this, [this] {
    for (QAction* action : window()->actions())
      if (action->shortcut() == QKeySequence(Qt::Key_F2)) action->trigger();
  });
  connect(m_permission, &QComboBox::activated, this, [this, current](int at) {
    m_session.edit(tr("Record permission"),
                   withSourceChanged(m_session.project(), current(),
                                     [at](Source& s) { s.papers.recording = Permission(at); }));
  });
  connect(m_rightsNote, &QLineEdit::editingFinished, this, [this, current] {
    m_session.edit(tr("Note on rights"),
                   withSourceChanged(m_session.project(), current(), [this](Source& s) {
                     s.papers.note = m_rightsNote->text().toStdString();
                   }));
  });
  connect(&session, &Session::changed, this, &CrateStage::refill);
  connect(&session, &Session::selectionChanged, this, &CrateStage::refreshCard);
  refill();
}

void CrateStage::correctTempo(double factor) {
  const Source* source = findSource(m_session.project(), m_session.selection().source);
  const auto grid = source ? gridOf(*source) : std::nullopt;
  if (!grid) return;
  const double bpm = grid->tempo.value * factor;
  if (bpm < 20 || bpm > 400) return;
  m_session.edit(factor < 1 ? tr("Half its tempo") : tr("Double its tempo"),
                 withSourceChanged(m_session.project(), source->id,
                                   [bpm](Source& s) { s.corrections.tempo = Bpm(bpm); }));
}

void CrateStage::tapSource() {
  m_taps.tap(Seconds(double(m_clock.nsecsElapsed()) * 1e-9));
  const auto tempo = m_taps.tempo();
  if (!tempo || !findSource(m_session.project(), m_session.selection().source)) return;
  m_session.edit(tr("Tap its tempo"),
                 withSourceChanged(m_session.project(), m_session.selection().source,
                                   [&](Source& s) { s.corrections.tempo = tempo->bpm; }),
                 QStringLiteral("tap source"));
  m_card->setTapped(tr("%1 BPM ± %2 from %3 taps")
                        .arg(tempo->bpm.value, 0, 'f', 2)
                        .arg(tempo->uncertaintyBpm, 0, 'f', 2)
                        .arg(tempo->taps));
}

void CrateStage::refill() {
  m_filling = true;
  std::vector<const Source*> shown;
  for (const auto& source : m_session.project().sources)
    if (!source->kit || m_showKit) shown.push_back(source.get());
  while (m_list->count() > int(shown.size())) delete m_list->takeItem(m_list->count() - 1);
  while (m_list->count() < int(shown.size())) m_list->addItem(QString());
  for (int i = 0; i < m_list->count(); ++i) {
    const Source* s = shown[std::size_t(i)];
    m_list->item(i)->setData(Qt::UserRole, uint(s->id));
    m_list->item(i)->setData(
        Qt::AccessibleTextRole,
        QStringLiteral("%1, %2, %3, %4")
            .arg(QString::fromStdString(s->name), lengthText(*s), tempoText(*s), keyText(*s)));
  }
  m_filling = false;
  m_list->viewport()->update();
  refreshCard();
}

void CrateStage::refreshCard() {
  m_filling = true;
  const Source* source = findSource(m_session.project(), m_session.selection().source);
  for (int i = 0; i < m_list->count(); ++i)
    if (source && m_list->item(i)->data(Qt::UserRole).toUInt() == source->id)
      m_list->setCurrentRow(i);
  m_filling = false;
  const bool any = source != nullptr, timed = any && gridOf(*source).has_value();
  for (QWidget* w :
       std::initializer_list<QWidget*>{m_hear, m_tap, m_cut, m_remove, m_permission, m_rightsNote})
    w->setEnabled(any);
  m_half->setEnabled(timed);
  m_double->setEnabled(timed);
  m_heardAgain->setEnabled(any && source->corrections != Corrections{});
  m_permission->setCurrentIndex(any ? int(source->papers.recording) : 0);
  if (!m_rightsNote->hasFocus())
    m_rightsNote->setText(any ? QString::fromStdString(source->papers.note) : QString());
}

void CrateStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& c = theme::colours();
  p.fillRect(rect(), c.ground);
  if (m_list->count() == 0)
    theme::drawText(
        p, QRectF(m_list->geometry()).adjusted(px(4), px(40), 0, 0), Qt::AlignTop | Qt::AlignLeft,
        tr("Drop a sound here, or open the demo from File."), theme::Type::Body, c.quiet);
}

} // namespace tuvvo
