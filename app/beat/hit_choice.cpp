#include "beat/hit_choice.h"

#include "model/edits.h"
#include "session/music_text.h"
#include "widgets/combo.h"

namespace tuvvo {

HitChoice::HitChoice(Panel& panel) : QObject(&panel), m_panel(panel) {
  connect(&panel, &Panel::changed, this, &HitChoice::keepWhatIsThere);
  connect(&panel, &Panel::selectionChanged, this, &HitChoice::keepWhatIsThere);
}

PatternPtr HitChoice::pattern() const {
  return findPattern(m_panel.project(), m_panel.selection().pattern);
}

bool HitChoice::contains(Id part, const Hit& hit) const {
  const auto found = m_sets.find(part);
  return found != m_sets.end() && found->second.contains(hit);
}

void HitChoice::choose(HitClip hits) {
  m_hits = std::move(hits);
  m_shaping = m_next;
  std::map<Id, std::vector<Hit>> parts;
  for (const auto& each : m_hits) parts[each.part].push_back(each.hit);
  m_sets.clear();
  for (auto& [part, of] : parts) m_sets[part] = HitSet(std::move(of));
  emit changed();
}

void HitChoice::toggle(Id part, const Hit& hit) {
  HitClip hits = m_hits;
  const HitOf one{part, hit};
  if (std::erase(hits, one) == 0) hits.push_back(one);
  choose(std::move(hits));
}

void HitChoice::chooseAll(Id part) {
  const PatternPtr now = pattern();
  const Lane* lane = now ? findLane(*now, part) : nullptr;
  HitClip all;
  if (lane)
    for (const auto& hit : lane->hits) all.push_back({part, hit});
  choose(std::move(all));
}

void HitChoice::chooseClass(Id part, BeatClass which) {
  const PatternPtr now = pattern();
  HitClip all;
  if (now)
    for (const auto& hit : hitsOf(*now, part, which)) all.push_back({part, hit});
  if (all.empty()) emit m_panel.message(tr("No hit of this part stands there."), false);
  choose(std::move(all));
}

/// After undo, or in another pattern, what is gone is not chosen any more.
void HitChoice::keepWhatIsThere() {
  if (m_editing || m_hits.empty()) return;
  const PatternPtr now = pattern();
  HitClip left;
  for (const auto& each : m_hits) {
    const Lane* lane = now ? findLane(*now, each.part) : nullptr;
    if (!lane) continue;
    const auto [first, last] =
        std::equal_range(lane->hits.begin(), lane->hits.end(), each.hit,
                         [](const Hit& a, const Hit& b) { return a.at < b.at; });
    if (std::find(first, last, each.hit) != last) left.push_back(each);
  }
  if (left.size() != m_hits.size()) choose(std::move(left));
}

void HitChoice::replace(const QString& name, const HitClip& by) {
  const PatternPtr now = pattern();
  if (!now) return;
  HitClip held = by; // as the edit will hold them, so that they are found again
  for (auto& each : held) clamp(each.hit);
  if (held == m_hits) return;
  m_editing = true;
  m_panel.edit(
      name,
      withPatternChanged(m_panel.project(), now->id,
                         [&](Pattern& p) { p = withReplaced(std::move(p), m_hits, held); }),
      name);
  m_editing = false;
  choose(std::move(held));
}

void HitChoice::change(const QString& name, const std::function<void(Hit&)>& change) {
  if (const PatternPtr now = pattern(); now && !empty())
    replace(name, tuvvo::changed(*now, m_hits, change));
}

void HitChoice::remove() {
  if (empty()) return;
  replace(m_hits.size() == 1 ? tr("Remove a hit") : tr("Remove hits"), {});
  m_panel.settle();
}

void HitChoice::copy() {
  if (empty()) return;
  m_copied = m_hits;
  emit changed();
  emit m_panel.message(m_copied.size() == 1 ? tr("1 hit copied.")
                                            : tr("%1 hits copied.").arg(m_copied.size()),
                       false);
}

void HitChoice::cut() {
  copy();
  remove();
}

void HitChoice::lay(const QString& name, Beats at, int times) {
  const PatternPtr now = pattern();
  if (!now || m_copied.empty()) return;
  HitClip clip = m_copied; // keys may have gone since
  std::erase_if(clip, [&](const HitOf& each) {
    const Key* key = findKey(m_panel.project(), each.hit.key);
    return !key || key->part != each.part;
  });
  const Pattern laid = withPasted(*now, clip, at, times, Beats(0));
  HitClip fresh;
  for (const auto& lane : laid.lanes) {
    const Lane* before = findLane(*now, lane.part);
    const HitSet known(before ? before->hits : std::vector<Hit>{});
    for (const auto& hit : lane.hits)
      if (!known.contains(hit)) fresh.push_back({lane.part, hit});
  }
  m_editing = true;
  m_panel.edit(name, withPatternChanged(m_panel.project(), now->id,
                                        [&](Pattern& p) { p.lanes = laid.lanes; }));
  m_editing = false;
  choose(std::move(fresh));
}

void HitChoice::paste(Beats at) { lay(tr("Paste hits"), at, 1); }

void HitChoice::pasteRepeated(Beats at) {
  const PatternPtr now = pattern();
  if (!now || m_copied.empty()) return;
  const std::int64_t span = std::max(Beats(1), spanOf(m_copied)).value;
  lay(tr("Paste hits to the end"), at,
      int(std::max<std::int64_t>(1, (lengthOf(*now) - at).value / span)));
}

void HitChoice::stretch(double factor) {
  if (const PatternPtr now = pattern())
    replace(tr("Stretch hits"), stretched(*now, m_hits, factor));
  m_panel.settle();
}

void HitChoice::shape(const QString& name, const std::function<HitClip(HitClip)>& shape) {
  const PatternPtr now = pattern();
  if (!now || empty()) return;
  if (m_shaping != name) m_unshaped = m_hits;
  m_next = name;
  replace(name, tuvvo::changed(*now, shape(m_unshaped), [](Hit&) {}));
  m_next.clear();
}

void HitChoice::step(int steps) {
  replace(steps % 7 == 0 ? tr("Hits by octaves") : tr("Hits by steps"),
          steppedInScale(m_panel.project(), m_hits, steps));
  m_panel.settle();
}

void HitChoice::snapTo(const std::vector<ChordSpan>& chords) {
  replace(tr("Move to the chord"), snappedToChords(m_panel.project(), m_hits, chords));
  m_panel.settle();
}

void HitChoice::send(Id id, SendAs way) {
  const PatternPtr now = pattern();
  const Key* key = findKey(m_panel.project(), id);
  if (!now || !key || empty()) return;
  const SentHits made = sent(m_panel.project(), *now, m_hits, id, way);
  m_editing = true;
  m_panel.edit(way == SendAs::Move ? tr("Send hits") : tr("Copy hits to a key"),
               withPatternChanged(m_panel.project(), now->id,
                                  [&](Pattern& p) { p.lanes = made.pattern.lanes; }));
  m_editing = false;
  choose(made.hits);
  m_panel.settle();
  QString said = tr("%1 on %2.")
                     .arg(counted(qint64(made.hits.size()), tr("hit"), tr("hits")),
                          nameText(m_panel.project(), *key));
  if (made.moved > 0)
    said += QLatin1Char(' ') + tr("%1 of them sound in another octave: the key's tune does not "
                                  "reach further.")
                                   .arg(made.moved);
  emit m_panel.message(said, false);
}

} // namespace tuvvo
