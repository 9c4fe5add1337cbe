#include "song/song_stage.h"

#include "base/tempo_map.h"
#include "model/edits.h"
#include "song/first_song.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/stage_head.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

SongView::SongView(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent)
    : Panel(host, parent), m_transport(transport), m_meter(meter) {
  setAccessibleName(tr("Sections"));
  setToolTip(tr("Click a section to choose it; click a part's line to let it rest there; "
                "double-click a card to play from it. Keys: left and right choose a section, up "
                "and down a part, Enter rests it."));
  setFocusPolicy(Qt::StrongFocus);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, qOverload<>(&QWidget::update));
  connect(&transport, &Transport::tick, this, qOverload<>(&QWidget::update));
  connect(&meter, &SongMeter::measured, this, qOverload<>(&QWidget::update));
}

std::vector<Part> SongView::parts() const {
  std::vector<Part> out;
  for (const auto& part : project().parts) {
    // Only parts that some pattern plays have a line.
    bool used = false;
    for (const auto& pattern : project().patterns)
      if (const Lane* lane = findLane(*pattern, part.id)) used = used || !lane->hits.empty();
    if (used) out.push_back(part);
  }
  std::stable_sort(out.begin(), out.end(), [&](const Part& a, const Part& b) {
    return theme::placeOf(a.role) < theme::placeOf(b.role);
  });
  return out;
}

std::vector<SongView::Card> SongView::cards() const {
  std::vector<Card> out;
  const Timeline timeline = timelineOf(project());
  if (timeline.bars == 0) return out;
  const double left = px(92), scale = (width() - left - px(2)) / inBeats(timeline.length);
  for (const auto& placed : timeline.sections)
    if (const Section* section = findSection(project(), placed.section))
      out.push_back({*section,
                     QRectF(left + inBeats(placed.start) * scale, px(64),
                            inBeats(placed.length) * scale - px(4), height() - px(66)),
                     inBeats(placed.start), inBeats(placed.length)});
  return out;
}

QRectF SongView::lineOf(const Card& card, std::size_t index) const {
  const auto count = std::max<std::size_t>(1, parts().size());
  const double top = card.box.top() + px(46), room = card.box.bottom() - top - px(6),
               h = std::min<double>(room / double(count), px(22));
  return QRectF(card.box.left() + px(6), top + h * double(index), card.box.width() - px(12), h);
}

Id SongView::part() const {
  const auto all = parts();
  for (const auto& each : all)
    if (each.id == m_part) return m_part;
  return all.empty() ? 0 : all.front().id;
}

void SongView::stepPart(int steps) {
  const auto all = parts();
  for (std::size_t i = 0; i < all.size(); ++i)
    if (all[i].id == part()) {
      m_part = all[std::size_t(std::clamp<std::ptrdiff_t>(std::ptrdiff_t(i) + steps, 0,
                                                          std::ptrdiff_t(all.size()) - 1))]
                   .id;
      break;
    }
  update();
}

void SongView::drawEnergy(QPainter& p, const std::vector<Card>& all) {
  const auto& c = theme::colours();
  const auto& bars = m_meter.measure().barLoudness;
  const double left = all.front().box.left(), right = all.back().box.right();
  theme::drawText(p, QRectF(px(2), px(18), px(84), px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("energy"), theme::Type::Small, c.quiet);
  if (bars.empty()) {
    theme::drawText(p, QRectF(left, px(18), right - left, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("measuring…"), theme::Type::Small, c.quiet);
    return;
  }
  QPolygonF line;
  const double w = (right - left) / double(bars.size());
  for (std::size_t i = 0; i < bars.size(); ++i) {
    const double share = std::isfinite(bars[i]) ? std::clamp((double(bars[i]) + 36) / 28, 0.0, 1.0)
                                                : 0; // −36 to −8 LUFS
    const double y = px(54) - share * px(42);
    line << QPointF(left + w * double(i), y) << QPointF(left + w * double(i + 1), y);
  }
  QPolygonF area = line;
  area << QPointF(right, px(56)) << QPointF(left, px(56));
  p.setPen(Qt::NoPen);
  p.setBrush(theme::mixed(c.slate, c.ground, 0.25));
  p.drawPolygon(area);
  p.setPen(QPen(c.slate, 1.5));
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(line);
}

void SongView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), c.ground);
  const auto all = cards();
  if (all.empty()) {
    theme::drawText(p, rect(), Qt::AlignCenter,
                    tr("No sections yet. Add one above, and choose which pattern it plays."),
                    theme::Type::Body, c.quiet);
    return;
  }
  drawEnergy(p, all);
  const auto lines = parts();
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const QRectF line = lineOf(all.front(), i);
    const bool here = hasFocus() && lines[i].id == part();
    theme::drawText(p, QRectF(px(2), line.top(), px(84), line.height()),
                    Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(lines[i].name),
                    theme::Type::Small, here ? c.brass : c.quiet);
  }
  for (const auto& card : all) {
    const bool chosen = card.section.id == selection().section;
    p.setPen(QPen(chosen ? c.brass : c.line, chosen ? 1.8 : 1));
    p.setBrush(chosen ? c.raised : c.panel);
    p.drawRoundedRect(card.box.adjusted(1, 1, -1, -1), 8, 8);
    const PatternPtr pattern = findPattern(project(), card.section.pattern);
    const QRectF head(card.box.left() + px(9), card.box.top() + px(6), card.box.width() - px(14),
                      px(18));
    theme::drawText(p, head, Qt::AlignLeft | Qt::AlignVCenter,
                    QString::fromStdString(card.section.name), theme::Type::Strong, c.text);
    theme::drawText(p, head.translated(0, px(17)), Qt::AlignLeft | Qt::AlignVCenter,
                    counted(card.section.bars, tr("bar"), tr("bars")) +
                        (pattern && pattern->name != card.section.name
                             ? QStringLiteral(" · ") + QString::fromStdString(pattern->name)
                             : QString()),
                    theme::Type::Small, c.quiet);
    for (std::size_t i = 0; i < lines.size(); ++i) {
      const QRectF line = lineOf(card, i);
      const Lane* lane = pattern ? findLane(*pattern, lines[i].id) : nullptr;
      const bool plays = lane && !lane->hits.empty();
      const bool rests = std::find(card.section.mutedParts.begin(), card.section.mutedParts.end(),
                                   lines[i].id) != card.section.mutedParts.end();
      if (hasFocus() && chosen && lines[i].id == part()) {
        p.setPen(QPen(c.brass, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(line.adjusted(-3, 0, 3, 0), 3, 3);
      }
      if (!plays) continue;
      const double y = line.center().y(), thick = std::min(line.height() * 0.42, double(px(7)));
      p.setPen(rests ? QPen(theme::ofRow(lines[i].role), 1, Qt::DotLine) : QPen(Qt::NoPen));
      p.setBrush(rests ? QBrush(Qt::NoBrush)
                       : QBrush(theme::mixed(theme::ofRow(lines[i].role), c.panel, 0.85)));
      if (rests)
        p.drawLine(QPointF(line.left(), y), QPointF(line.right(), y));
      else
        p.drawRoundedRect(QRectF(line.left(), y - thick / 2, line.width(), thick), thick / 2,
                          thick / 2);
    }
  }
  const double now = m_transport.positionBeats();
  if (m_transport.plays() == Plays::Song && now >= 0) {
    const double scale = (all.back().box.right() + px(4) - all.front().box.left()) /
                         (all.back().startBeat + all.back().beats);
    p.fillRect(QRectF(all.front().box.left() + now * scale, px(8), 1.5, height() - px(10)),
               c.brass);
  }
}

void SongView::mousePressEvent(QMouseEvent* event) {
  const auto lines = parts();
  for (const auto& card : cards()) {
    if (!card.box.contains(event->position())) continue;
    selectSection(card.section.id);
    for (std::size_t i = 0; i < lines.size(); ++i)
      if (lineOf(card, i).contains(event->position())) {
        m_part = lines[i].id;
        edit(tr("Rest or play a part"),
             withSectionChanged(project(), card.section.id, [&](Section& s) {
               if (std::erase(s.mutedParts, lines[i].id) == 0) s.mutedParts.push_back(lines[i].id);
             }));
        return;
      }
    return;
  }
}

void SongView::mouseDoubleClickEvent(QMouseEvent* event) {
  for (const auto& card : cards())
    if (card.box.contains(event->position()) && event->position().y() < card.box.top() + px(44)) {
      m_transport.setPlays(Plays::Song);
      m_transport.play(card.startBeat);
    }
}

void SongView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Up)
    stepPart(-1);
  else if (event->key() == Qt::Key_Down)
    stepPart(1);
  else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    const Id chosen = part();
    edit(tr("Rest or play a part"),
         withSectionChanged(project(), selection().section, [&](Section& s) {
           if (std::erase(s.mutedParts, chosen) == 0) s.mutedParts.push_back(chosen);
         }));
  } else
    QWidget::keyPressEvent(event);
}

SongStage::SongStage(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent)
    : StageView(host, parent), m_transport(transport), m_meter(meter) {
  m_view = new SongView(*this, transport, meter, this);
  m_view->setObjectName(QStringLiteral("song"));
  setFocusProxy(m_view);
  m_name = new QLineEdit(this);
  m_name->setAccessibleName(tr("Name of the section"));
  m_name->setFixedWidth(px(140));
  m_pattern = new Combo(tr("Pattern of the section"), tr("Which pattern this section plays"), this);
  m_pattern->setMinimumWidth(px(110));
  m_bars = new Slide(QString(), {1, 32, 4, 1, 0}, tr("bars"), this);
  m_bars->setId(QStringLiteral("section.bars"));
  m_bars->setAccessibleName(tr("Bars of the section"));
  m_bars->setFixedWidth(px(110));
  m_head = new StageHead(this);
  using Stays = ControlRow::Stays;
  m_head->say(tr("Song"), {});
  m_head->addStretch();
  auto* from = new Button(Sign::Play, tr("Play from here"),
                          tr("Play the song from this section (Ctrl+Return)"), m_head);
  m_head->add(from);
  m_next = m_head->addNext(QString(), QString());
  connect(m_next, &QAbstractButton::clicked, this, &SongStage::doNext);
  auto* section = new ControlRow(this);
  auto* add = new Button(Sign::Add, tr("Add section"),
                         tr("Another section after this one (Insert)"), section);
  auto* earlier = new Button(tr("Earlier"), tr("Move this section earlier (Ctrl+Left)"), section);
  auto* later = new Button(tr("Later"), tr("Move this section later (Ctrl+Right)"), section);
  auto* remove = new Button(Sign::Remove, tr("Remove"),
                            tr("Remove this section; can be undone (Delete)"), section);
  remove->setWeight(Button::Weight::Danger);
  connectSection();
  addCommands({add, remove, earlier, later, from});
  for (QWidget* w : std::initializer_list<QWidget*>{m_name, m_pattern, m_bars})
    section->add(w, Stays::Always);
  section->addStretch();
  section->add(add);
  for (Button* button : {earlier, later, remove}) section->add(button, Stays::UnderMore);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(12), px(12), px(12));
  column->setSpacing(px(8));
  column->addWidget(m_head);
  column->addWidget(section);
  column->addWidget(m_view, 1);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &SongStage::refresh);
  connect(&transport, &Transport::changed, this, &SongStage::refreshNext);
  refresh();
}

void SongStage::connectSection() {
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    changeSection(tr("Name a section"),
                  [this](Section& s) { s.name = m_name->text().trimmed().toStdString(); });
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { m_view->setFocus(); });
  connect(m_pattern, &QComboBox::activated, this, [this](int at) {
    changeSection(tr("Pattern of a section"),
                  [this, at](Section& s) { s.pattern = Id(m_pattern->itemData(at).toUInt()); });
  });
  connect(m_bars, &Slide::changed, this, [this](double v, bool settled) {
    edit(tr("Bars of a section"),
         withSectionChanged(project(), selection().section, [v](Section& s) { s.bars = int(v); }),
         QStringLiteral("section bars"));
    if (settled) settle();
  });
}

void SongStage::addCommands(const Acts& acts) {
  auto* addAction = addCommand(tr("Add a section"), QKeySequence(Qt::Key_Insert), [this] {
    const Project& p = project();
    Section section;
    section.name = tr("Section %1").arg(p.sections.size() + 1).toStdString();
    section.pattern = selection().pattern;
    std::size_t place = p.sections.size();
    for (std::size_t i = 0; i < p.sections.size(); ++i)
      if (p.sections[i].id == selection().section) place = i + 1;
    Id added = 0;
    edit(tr("Add a section"), withSection(p, section, place, &added));
    selectSection(added);
  });
  auto* removeAction = addCommand(tr("Remove the section"), QKeySequence(Qt::Key_Delete), [this] {
    edit(tr("Remove a section"), withoutSection(project(), selection().section));
  });
  auto* earlierAction =
      addCommand(tr("Section earlier"), QKeySequence(Qt::CTRL | Qt::Key_Left), [this] {
        edit(tr("Move a section"), withSectionMoved(project(), selection().section, -1));
      });
  auto* laterAction =
      addCommand(tr("Section later"), QKeySequence(Qt::CTRL | Qt::Key_Right), [this] {
        edit(tr("Move a section"), withSectionMoved(project(), selection().section, 1));
      });
  auto* fromAction =
      addCommand(tr("Play from this section"), QKeySequence(Qt::CTRL | Qt::Key_Return), [this] {
        for (const auto& placed : timelineOf(project()).sections)
          if (placed.section == selection().section) {
            m_transport.setPlays(Plays::Song);
            m_transport.play(inBeats(placed.start));
          }
      });
  addCommand(tr("Section before"), QKeySequence(Qt::Key_Left), [this] { step(-1); });
  addCommand(tr("Next section"), QKeySequence(Qt::Key_Right), [this] { step(1); });
  for (const auto& [chip, action] : {std::pair{acts.add, addAction},
                                     {acts.remove, removeAction},
                                     {acts.earlier, earlierAction},
                                     {acts.later, laterAction},
                                     {acts.from, fromAction}})
    connect(chip, &QAbstractButton::clicked, action, &QAction::trigger);
}

void SongStage::step(int steps) {
  const auto& sections = project().sections;
  for (std::size_t i = 0; i < sections.size(); ++i)
    if (sections[i].id == selection().section) {
      const auto next = std::ptrdiff_t(i) + steps;
      if (next >= 0 && next < std::ptrdiff_t(sections.size()))
        selectSection(sections[std::size_t(next)].id);
      return;
    }
}

void SongStage::changeSection(const QString& name, const std::function<void(Section&)>& change) {
  edit(name, withSectionChanged(project(), selection().section, change));
}

void SongStage::refresh() {
  const Project& p = project();
  const Section* section = findSection(p, selection().section);
  for (QWidget* w : std::initializer_list<QWidget*>{m_name, m_pattern, m_bars})
    w->setEnabled(section);
  if (!m_name->hasFocus())
    m_name->setText(section ? QString::fromStdString(section->name) : QString());
  m_pattern->clear();
  for (const auto& pattern : p.patterns) {
    m_pattern->addItem(QString::fromStdString(pattern->name), uint(pattern->id));
    if (section && pattern->id == section->pattern)
      m_pattern->setCurrentIndex(m_pattern->count() - 1);
  }
  if (section) m_bars->setValue(section->bars);
  m_head->say(tr("Song"),
              tr("%1 bars · %2")
                  .arg(timelineOf(p).bars)
                  .arg(counted(qint64(p.sections.size()), tr("section"), tr("sections"))));
  refreshNext();
}

void SongStage::refreshNext() {
  if (project().sections.size() < 2) {
    m_next->setSign(Sign::Propose);
    m_next->setSaid(tr("Propose an arrangement"),
                    tr("From this pattern: a thin beginning, the whole, a last bar that differs, a "
                       "thin end; each section can be changed"));
  } else if (!m_transport.playing()) {
    m_next->setSign(Sign::Play);
    m_next->setSaid(tr("Play the song"), tr("From its beginning"));
  } else {
    m_next->setSign(Sign::Print);
    m_next->setSaid(tr("Print it"), tr("Go on with levels and files in Print (F6)"));
  }
}

void SongStage::doNext() {
  if (project().sections.size() < 2) {
    edit(tr("Propose an arrangement"), withFirstSong(project(), selection().pattern));
    if (!project().sections.empty()) selectSection(project().sections.front().id);
    return;
  }
  if (m_transport.playing()) return emit goTo(Stage::Print);
  m_transport.setPlays(Plays::Song);
  m_transport.play(0);
}

void SongStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
