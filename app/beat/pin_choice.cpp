#include "beat/pin_choice.h"

#include "model/edits.h"

namespace tuvvo {

PinChoice::PinChoice(Session& session, QObject* parent) : QObject(parent), m_session(session) {
  connect(&session, &Session::changed, this, &PinChoice::keepWhatIsThere);
  connect(&session, &Session::selectionChanged, this, &PinChoice::keepWhatIsThere);
}

PatternPtr PinChoice::pattern() const {
  return findPattern(m_session.project(), m_session.selection().pattern);
}

bool PinChoice::contains(Id part, const Pin& pin) const {
  const auto found = m_sets.find(part);
  return found != m_sets.end() && found->second.contains(pin);
}

void PinChoice::choose(PinClip pins) {
  m_pins = std::move(pins);
  std::map<Id, std::vector<Pin>> parts;
  for (const auto& each : m_pins) parts[each.part].push_back(each.pin);
  m_sets.clear();
  for (auto& [part, of] : parts) m_sets[part] = PinSet(std::move(of));
  emit changed();
}

void PinChoice::toggle(Id part, const Pin& pin) {
  PinClip pins = m_pins;
  const PinOf one{part, pin};
  if (std::erase(pins, one) == 0) pins.push_back(one);
  choose(std::move(pins));
}

void PinChoice::chooseAll(Id part) {
  const PatternPtr now = pattern();
  const Lane* lane = now ? findLane(*now, part) : nullptr;
  PinClip all;
  if (lane)
    for (const auto& pin : lane->pins) all.push_back({part, pin});
  choose(std::move(all));
}

void PinChoice::chooseClass(Id part, BeatClass which) {
  const PatternPtr now = pattern();
  PinClip all;
  if (now)
    for (const auto& pin : pinsOf(*now, part, which)) all.push_back({part, pin});
  if (all.empty()) emit m_session.message(tr("No pin of this part stands there."), false);
  choose(std::move(all));
}

/// After undo, or in another pattern, what is gone is not chosen any more.
void PinChoice::keepWhatIsThere() {
  if (m_editing || m_pins.empty()) return;
  const PatternPtr now = pattern();
  PinClip left;
  for (const auto& each : m_pins) {
    const Lane* lane = now ? findLane(*now, each.part) : nullptr;
    if (!lane) continue;
    const auto [first, last] =
        std::equal_range(lane->pins.begin(), lane->pins.end(), each.pin,
                         [](const Pin& a, const Pin& b) { return a.at < b.at; });
    if (std::find(first, last, each.pin) != last) left.push_back(each);
  }
  if (left.size() != m_pins.size()) choose(std::move(left));
}

void PinChoice::replace(const QString& name, const PinClip& by) {
  const PatternPtr now = pattern();
  if (!now) return;
  PinClip held = by; // as the edit will hold them, so that they are found again
  for (auto& each : held) hold(each.pin);
  if (held == m_pins) return;
  m_editing = true;
  m_session.edit(
      name,
      withPatternChanged(m_session.project(), now->id,
                         [&](Pattern& p) { p = withReplaced(std::move(p), m_pins, held); }),
      name);
  m_editing = false;
  choose(std::move(held));
}

void PinChoice::change(const QString& name, const std::function<void(Pin&)>& change) {
  if (const PatternPtr now = pattern(); now && !empty())
    replace(name, tuvvo::changed(*now, m_pins, change));
}

void PinChoice::remove() {
  if (empty()) return;
  replace(m_pins.size() == 1 ? tr("Take a pin out") : tr("Take pins out"), {});
  m_session.settle();
}

void PinChoice::copy() {
  if (empty()) return;
  m_copied = m_pins;
  emit changed();
  emit m_session.message(m_copied.size() == 1 ? tr("1 pin copied.")
                                              : tr("%1 pins copied.").arg(m_copied.size()),
                         false);
}

void PinChoice::cut() {
  copy();
  remove();
}

void PinChoice::lay(const QString& name, Beats at, int times) {
  const PatternPtr now = pattern();
  if (!now || m_copied.empty()) return;
  PinClip clip = m_copied; // keys may have gone since
  std::erase_if(clip, [&](const PinOf& each) {
    const Key* key = findKey(m_session.project(), each.pin.key);
    return !key || key->part != each.part;
  });
  const Pattern laid = withPasted(*now, clip, at, times, Beats(0));
  PinClip fresh;
  for (const auto& lane : laid.lanes) {
    const Lane* before = findLane(*now, lane.part);
    const PinSet known(before ? before->pins : std::vector<Pin>{});
    for (const auto& pin : lane.pins)
      if (!known.contains(pin)) fresh.push_back({lane.part, pin});
  }
  m_editing = true;
  m_session.edit(name, withPatternChanged(m_session.project(), now->id,
                                          [&](Pattern& p) { p.lanes = laid.lanes; }));
  m_editing = false;
  choose(std::move(fresh));
}

void PinChoice::paste(Beats at) { lay(tr("Paste pins"), at, 1); }

void PinChoice::pasteRepeated(Beats at) {
  const PatternPtr now = pattern();
  if (!now || m_copied.empty()) return;
  const std::int64_t span = std::max(Beats(1), spanOf(m_copied)).value;
  lay(tr("Paste pins to the end"), at,
      int(std::max<std::int64_t>(1, (lengthOf(*now) - at).value / span)));
}

void PinChoice::stretch(double factor) {
  if (const PatternPtr now = pattern())
    replace(tr("Stretch pins"), stretched(*now, m_pins, factor));
  m_session.settle();
}

void PinChoice::ramp(double from, double to) {
  replace(tr("Velocity ramp"), ramped(m_pins, from, to));
  m_session.settle();
}

} // namespace tuvvo
