#include "beat/free_space_panel.h"
#include "session/music_text.h"

#include "base/convert.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "tones/theory.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/slide.h"

#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

RolesView::RolesView(Panel& host, QWidget* parent) : Panel(host, parent) {
  setAccessibleName(tr("Who plays when"));
  setToolTip(tr("Parts by role over the pattern: where a row is empty there is room."));
  setFixedHeight(px(56));
}

void RolesView::refresh() {
  const Project& p = project();
  m_busy = {};
  if (const PatternPtr pattern = findPattern(p, selection().pattern)) {
    m_perBar = std::max(1, toNearest<int>(quartersOf(pattern->meter)));
    m_busy = rolesOverTime(p, *pattern);
  }
  update();
}

void RolesView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const std::array<QString, 4> names{tr("cuts"), tr("air"), tr("body"), tr("floor")};
  const double left = px(46), each = height() / 4.0;
  for (Row role : {Row::Air, Row::Cuts, Row::Body, Row::Floor}) {
    const auto& row = m_busy[std::size_t(role)];
    const double y = theme::placeOf(role) * each;
    theme::drawText(p, QRectF(0, y, left - px(6), each - 1), Qt::AlignLeft | Qt::AlignVCenter,
                    names[std::size_t(role)], theme::Type::Small, c.quiet);
    const double width = (this->width() - left) / std::max<double>(1, double(row.size()));
    for (std::size_t b = 0; b < row.size(); ++b) {
      const QRectF box(left + double(b) * width, y, width - (width > 4 ? 1 : 0), each - 2);
      p.fillRect(box, c.panel);
      p.fillRect(QRectF(box.left(), box.bottom() - box.height() * row[b], box.width(),
                        box.height() * row[b]),
                 theme::markOf(theme::ofRow(role), c.panel, 0.6));
      if (b % std::size_t(m_perBar) == 0) p.fillRect(QRectF(box.left() - 1, y, 1, each), c.line);
    }
  }
}

FreeSpacePanel::FreeSpacePanel(Panel& host, QWidget* parent) : Panel(host, parent) {
  m_figures = new Label(theme::Type::Small, theme::Ink::Text, this);
  m_figures->setWraps(true);
  auto* row = new ControlRow(this);
  const auto answer = [&](const QString& text, const QString& tip,
                          const std::function<Project(Project, const FreeSpace&)>& fix) {
    auto* made = new Button(text, tip, this);
    connect(made, &QAbstractButton::clicked, this, [this, text, fix] {
      if (m_room) edit(text, fix(project(), *m_room));
    });
    row->add(made);
    m_answers.push_back(made);
  };
  answer(tr("Tune the kick to the bass"), tr("To its octave or its fifth, whichever is nearer"),
         [](Project p, const FreeSpace& room) { return withKickTuned(std::move(p), room); });
  answer(tr("Shorten the kick"), tr("It has died away before the next low sound"),
         [](Project p, const FreeSpace& room) { return withKickShortened(std::move(p), room); });
  answer(tr("Move the bass after it"), tr("Notes inside the kick's ring begin after it"),
         [this](Project p, const FreeSpace& room) {
           return withBassMoved(std::move(p), selection().pattern, room);
         });
  answer(tr("Duck the bass under it"), tr("The bass steps back while the kick rings"),
         [](Project p, const FreeSpace& room) { return withBassDucked(std::move(p), room); });
  const auto slide = [&](const QString& id, const QString& label, Slide::Range range,
                         const QString& unit, const QString& tip,
                         std::function<void(Duck&, double)> set) {
    auto* made = new Slide(label, range, unit, this);
    made->setId(id);
    made->setFixedWidth(px(100));
    made->setToolTip(tip);
    connect(made, &Slide::changed, this, [this, label, set](double v, bool settled) {
      const Key* bass = m_room ? findKey(project(), m_room->keys.bass) : nullptr;
      const Key* kick = m_room ? findKey(project(), m_room->keys.kick) : nullptr;
      if (!bass || !kick) return;
      edit(label,
           withPartChanged(project(), bass->part,
                           [&](Part& part) {
                             part.duck.by = kick->part;
                             set(part.duck, v);
                             if (part.duck.depth.value <= 0) part.duck.by = 0;
                           }),
           label);
      if (settled) settle();
    });
    row->add(made);
    return made;
  };
  m_depth = slide(QStringLiteral("room.duck-by"), tr("Duck by"), {0, 40, 0, 0.5, 1}, tr("dB"),
                  tr("How far the bass steps back under the kick; 0: it does not"),
                  [](Duck& duck, double v) { duck.depth = Decibels(v); });
  m_back = slide(QStringLiteral("room.back-in"), tr("Back in"), {10, 1000, 140, 5, 0}, tr("ms"),
                 tr("Until it is there again"),
                 [](Duck& duck, double v) { duck.back = Milliseconds(v); });
  m_roles = new RolesView(*this, this);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(4));
  column->addWidget(m_figures);
  column->addWidget(row);
  column->addWidget(m_roles);
  column->addStretch(1);
}

void FreeSpacePanel::compare() {
  const Project& p = project();
  const PatternPtr pattern = findPattern(p, selection().pattern);
  m_room.reset();
  const auto pair = pattern ? lowPairOf(p, *pattern) : std::nullopt;
  if (!pair) return;
  const Key& kick = *findKey(p, pair->kick);
  if (!(kick == m_heardKey)) { // playing it once takes a while
    m_heardKey = kick;
    m_heard = analyseLow(p, kick);
  }
  m_room = freeSpaceOf(p, *pattern, *pair, m_heard);
}

void FreeSpacePanel::refresh() {
  compare();
  const Project& p = project();
  const auto name = [&](Id key) { return nameText(p, *findKey(p, key)); };
  QString words =
      tr("Room needs a kick and a bass in this pattern: the bass is a held key with one "
         "note (Bass lays one).");
  Duck duck;
  duck.depth = Decibels(0);
  if (m_room) {
    const FreeSpace& r = *m_room;
    const QString bass = musicText(speltNote(r.bassNote, p.key));
    words = r.kick.fundamental.value > 0 ? tr("%1 rings at %2 Hz (%3), %4 semitones from %5's %6")
                                               .arg(name(r.keys.kick))
                                               .arg(r.kick.fundamental.value, 0, 'f', 1)
                                               .arg(musicText(noteNameOf(r.kick.fundamental)))
                                               .arg(std::abs(r.apart), 0, 'f', 1)
                                               .arg(name(r.keys.bass), bass)
                                         : tr("%1 has no pitch of its own; %2 is mostly %3")
                                               .arg(name(r.keys.kick), name(r.keys.bass), bass);
    words += tr(" · it rings %1 ms, %2 beats; the next kick comes after %3")
                 .arg(r.kick.ring.value, 0, 'f', 0)
                 .arg(r.ringBeats, 0, 'f', 2)
                 .arg(r.freeBeats, 0, 'f', 2);
    words += tr(" · the bass sounds for %1 % of that ring").arg(r.overlap * 100, 0, 'f', 0);
    if (const Part* part = findPart(p, findKey(p, r.keys.bass)->part); part && part->duck.by != 0)
      duck = part->duck;
  }
  m_figures->setText(words);
  for (Button* button : m_answers) button->setEnabled(m_room.has_value());
  m_answers.front()->setEnabled(m_room && m_room->kick.fundamental.value > 0);
  m_depth->setEnabled(m_room.has_value());
  m_back->setEnabled(duck.by != 0);
  m_depth->setValue(duck.depth.value);
  m_back->setValue(duck.back.value);
  m_roles->refresh();
}

} // namespace tuvvo
