#include "beat/ribbons_view.h"

#include "base/convert.h"
#include "model/edits.h"
#include "theme/theme.h"

#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr double kFewestBeats = 0.5; ///< shown
}

RibbonsView::RibbonsView(Panel& host, Transport& transport, HitChoice& choice, QWidget* parent)
    : Panel(host, parent), m_transport(transport), m_choice(choice) {
  setAccessibleName(tr("Ribbons"));
  setToolTip(tr("Each pin is a hit. Click to set one, click it to choose it, drag it: up is "
                "louder, sideways moves it, with Alt it only comes early or late. Ctrl+click "
                "chooses more, Shift+drag all in a "
                "frame. Right-click removes. Double-click a name to open its pitches. Ctrl+wheel "
                "shows more or less. Keys: arrows move, "
                "Enter sets or removes a hit, + and − for velocity, Ctrl+arrows for early and "
                "late, Alt+arrows move what is chosen."));
  setFocusPolicy(Qt::StrongFocus);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &RibbonsView::noticeChange);
  connect(&choice, &HitChoice::changed, this, &RibbonsView::noticeChoice);
  noticeChange();
  connect(&transport, &Transport::tick, this, [this] {
    // What plays stays in sight, a page at a time.
    const double now = std::fmod(std::max(0.0, m_transport.positionBeats()), beats());
    if (m_span > 0 && m_transport.playing() && m_transport.plays() == Plays::Pattern &&
        m_drag == Drag::None && (now < m_from || now >= m_from + shown())) {
      m_from = std::clamp(std::floor(now / shown()) * shown(), 0.0, beats() - shown());
      m_stale = true;
      emit viewChanged();
    }
    update();
  });
}

/// What is drawn anew: the lanes that differ, or all where anything else does.
void RibbonsView::noticeChange() {
  stayOnPart();
  m_from = std::clamp(m_from, 0.0, std::max(0.0, beats() - shown()));
  const ProjectPtr now = projectPtr(), before = std::exchange(m_drawnProject, now);
  const PatternPtr pat = pattern(), last = std::exchange(m_drawn, pat);
  m_stale = m_stale || !pat || !last || !before || pat->id != last->id || pat->bars != last->bars ||
            pat->meter != last->meter || now->tempo != before->tempo ||
            now->grooves != before->grooves || now->parts != before->parts ||
            now->keys != before->keys;
  if (!m_stale && pat != last)
    for (const auto& part : now->parts) {
      const Lane *fresh = findLane(*pat, part.id), *old = findLane(*last, part.id);
      if (!fresh != !old || (fresh && !(*fresh == *old))) m_dirty.insert(part.id);
    }
  if (!m_open.empty()) makeRows(!last || !pat || pat->id != last->id);
  if (!m_open.empty() && (m_stale || pat != last || now->sources != before->sources))
    analyseChords();
  updateGeometry();
  update();
}

void RibbonsView::noticeChoice() {
  m_dirty.merge(std::set<Id>(m_drawnChoice));
  m_drawnChoice.clear();
  for (const auto& each : m_choice.hits()) m_drawnChoice.insert(each.part);
  m_dirty.insert(m_drawnChoice.begin(), m_drawnChoice.end());
  update();
}

/// The current part stays the one whatever becomes of its hits; another pattern in which it has
/// none begins with its first ribbon.
void RibbonsView::stayOnPart() {
  const PatternPtr pat = pattern();
  const bool another = pat && std::exchange(m_seen, pat->id) != pat->id;
  const Lane* lane = pat ? findLane(*pat, m_part) : nullptr;
  if (findPart(project(), m_part) && !(another && (!lane || lane->hits.empty()))) return;
  const auto all = ribbons();
  m_dirty.insert(m_part);
  m_part = all.empty() ? 0 : all.front().part.id;
  m_dirty.insert(m_part);
  emit partChanged();
}

PatternPtr RibbonsView::pattern() const { return findPattern(project(), selection().pattern); }

/// The pattern, or the longest of its lanes.
double RibbonsView::beats() const {
  const PatternPtr p = pattern();
  if (!p) return 8;
  Beats longest = lengthOf(*p);
  for (const auto& lane : p->lanes) longest = std::max(longest, lengthOf(*p, lane));
  return inBeats(longest);
}

double RibbonsView::shown() const { return m_span > 0 ? std::min(m_span, beats()) : beats(); }

std::int64_t RibbonsView::step() const {
  if (m_grid > 0) return kTicksPerBeat / m_grid;
  return std::max<std::int64_t>(1,
                                toWhole<std::int64_t>(double(kTicksPerBeat) / (xOf(1) - xOf(0))));
}

void RibbonsView::setGrid(int perBeat) {
  m_grid = perBeat;
  m_stale = true;
  update();
}

void RibbonsView::zoom(double factor, double around) {
  const double share = (around - m_from) / shown(), next = shown() * factor;
  m_span = next >= beats() ? 0 : std::max(kFewestBeats, next);
  m_from = std::clamp(around - share * shown(), 0.0, std::max(0.0, beats() - shown()));
  m_stale = true;
  update();
  emit viewChanged();
}

void RibbonsView::showAll() { zoom(1e6, 0); }

/// Parts of this pattern first, in the order of the deck from high to low; then the rest.
std::vector<RibbonsView::Ribbon> RibbonsView::ribbons() const {
  std::vector<Ribbon> out;
  const PatternPtr p = pattern();
  std::vector<Part> parts;
  const auto used = [&](const Part& part) {
    const Lane* lane = p ? findLane(*p, part.id) : nullptr;
    return lane && !lane->hits.empty();
  };
  for (const auto& part : project().parts) parts.push_back(part);
  std::stable_sort(parts.begin(), parts.end(), [&](const Part& a, const Part& b) {
    if (used(a) != used(b)) return used(a);
    return theme::placeOf(a.role) < theme::placeOf(b.role);
  });
  double y = px(4);
  for (const auto& part : parts) {
    Ribbon ribbon{part, {}, false, {}};
    const Lane* lane = p ? findLane(*p, part.id) : nullptr;
    if (lane)
      for (const auto& hit : lane->hits) ribbon.tones = ribbon.tones || hit.tune.value != 0;
    double h = !used(part) ? px(26) : ribbon.tones ? px(84) : px(48);
    if (const auto open = m_open.find(part.id); open != m_open.end()) {
      ribbon.tones = true;
      ribbon.rows = open->second;
      h = px(186);
    }
    ribbon.box = QRectF(0, y, width() - 1, h);
    y += h + px(5);
    out.push_back(ribbon);
  }
  return out;
}

int RibbonsView::heightNeeded() const {
  const auto all = ribbons();
  return all.empty() ? px(60) : int(all.back().box.bottom()) + px(6);
}

double RibbonsView::xOf(double beat) const {
  const double left = px(124), right = width() - 1 - px(8);
  return left + (beat - m_from) / shown() * (right - left);
}

double RibbonsView::beatAt(double x) const {
  return m_from + (x - xOf(m_from)) / (xOf(m_from + 1) - xOf(m_from));
}

double RibbonsView::toneY(const Ribbon& ribbon, const Lane& lane, const Hit& shown) const {
  if (ribbon.open()) return noteY(ribbon, noteOf(project(), shown));
  double low = 0, high = 0;
  for (const auto& hit : lane.hits) {
    low = std::min(low, hit.tune.value);
    high = std::max(high, hit.tune.value);
  }
  const double span = std::max(7.0, high - low);
  return ribbon.box.top() + px(9) +
         (high - shown.tune.value) / span * (ribbon.box.height() - px(20));
}

QPointF RibbonsView::tipOf(const Ribbon& ribbon, double heardTicks, double velocity) const {
  const double top = ribbon.box.top() + px(6), bottom = ribbon.box.bottom() - px(4);
  return {xOf(heardTicks / double(kTicksPerBeat)),
          bottom - (bottom - top) * (0.15 + 0.85 * velocity)};
}

Id RibbonsView::currentPart() const { return findPart(project(), m_part) ? m_part : 0; }

void RibbonsView::choosePart(Id part) {
  if (part == m_part) return;
  m_dirty.insert(m_part);
  m_part = part;
  m_dirty.insert(m_part);
  update();
  emit partChanged();
}

/// The key that a new hit plays: the selected one if it writes here, else the part's first.
Id RibbonsView::keyForNew(const Part& part) const {
  const Key* selected = findKey(project(), selection().key);
  if (selected && selected->part == part.id) return selected->id;
  for (const auto& key : project().keys)
    if (key.part == part.id) return key.id;
  return 0;
}

void RibbonsView::addHit(const Ribbon& ribbon, Beats at, double velocity, std::optional<int> note) {
  Hit hit;
  hit.at = at;
  hit.key = keyForNew(ribbon.part);
  hit.velocity = std::clamp(velocity, 0.1, 1.0);
  if (note) hit.tune = Semitones(*note - noteOf(project(), hit));
  if (const Key* key = findKey(project(), hit.key); key && key->gate)
    hit.length = Beats(kTicksPerBeat / 2);
  if (hit.key == 0) return;
  edit(tr("Set a hit"), withPatternChanged(project(), selection().pattern, [&](Pattern& p) {
         p = withHit(std::move(p), ribbon.part.id, hit);
       }));
  m_choice.chooseOne(ribbon.part.id, hit);
  selectKey(hit.key);
  if (!m_transport.playing()) playKey(hit.key, hit.velocity, hit.tune);
}

bool RibbonsView::hasHitAtCursor() const {
  const PatternPtr pat = pattern();
  const Lane* lane = pat ? findLane(*pat, currentPart()) : nullptr;
  return lane && std::any_of(lane->hits.begin(), lane->hits.end(),
                             [&](const Hit& hit) { return hit.at.value == m_cursor; });
}

void RibbonsView::toggleHitAtCursor() {
  const PatternPtr pat = pattern();
  if (!pat) return;
  for (const auto& ribbon : ribbons()) {
    if (ribbon.part.id != currentPart()) continue;
    if (!hasHitAtCursor()) {
      addHit(ribbon, Beats(m_cursor), 0.8,
             ribbon.open() ? std::optional(noteForNew(ribbon, Beats(m_cursor))) : std::nullopt);
      return;
    }
    HitClip here;
    for (const auto& hit : findLane(*pat, ribbon.part.id)->hits)
      if (hit.at.value == m_cursor) here.push_back({ribbon.part.id, hit});
    m_choice.choose(std::move(here));
    m_choice.remove();
    return;
  }
}

void RibbonsView::moveCursor(int steps, int down) {
  const auto all = ribbons();
  const PatternPtr pat = pattern();
  if (all.empty() || !pat) return;
  std::size_t at = 0;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (all[i].part.id == currentPart()) at = i;
  at = std::size_t(
      std::clamp<std::ptrdiff_t>(std::ptrdiff_t(at) + down, 0, std::ptrdiff_t(all.size()) - 1));
  choosePart(all[at].part.id);
  const std::int64_t each = step(), end = laneLength(*pat, m_part).value;
  m_cursor = ((m_cursor / each * each + steps * each) % end + end) % end;
  if (m_span > 0 && (inBeats(cursor()) < m_from || inBeats(cursor()) > m_from + shown()))
    zoom(1, inBeats(cursor()));
  if (const Lane* lane = findLane(*pat, m_part))
    for (const auto& hit : lane->hits)
      if (hit.at.value == m_cursor) m_choice.chooseOne(m_part, hit);
  emit cursorMoved();
  update();
}

} // namespace tuvvo
