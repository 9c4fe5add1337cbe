#include "play/event_writer.h"

#include "base/convert.h"
#include "base/random.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr std::size_t kMostLoopPins = 200'000;

std::uint64_t patchKey(Id key, bool reversed) {
  return std::uint64_t(key) << 1 | (reversed ? 1 : 0);
}

bool anySound(const Score& score, int first) {
  for (int i = first; i < first + score.patches[std::size_t(first)].layers; ++i)
    if (score.patches[std::size_t(i)].sound) return true;
  return false;
}

} // namespace

bool isStruck(const ScoreEvent& event, std::int64_t pass) {
  if (event.every <= 1 && event.chance >= 1) return true;
  const std::int64_t round = pass * event.rounds + event.round;
  if (event.every > 1 && round % event.every != event.which) return false;
  if (event.chance >= 1) return true;
  Random dice((std::uint64_t(event.dice) << 32) + std::uint64_t(round));
  (void)dice.next();
  return dice.unit() < double(event.chance);
}

Beats loopLength(const Pattern& pattern) {
  const Beats own = lengthOf(pattern);
  const auto meeting = meetingOf(pattern);
  const auto pinsIn = [&](Beats length) {
    std::size_t pins = 0;
    for (const auto& lane : pattern.lanes)
      pins += lane.pins.size() *
              std::size_t(1 + (length.value - 1) /
                                  std::max<std::int64_t>(1, lengthOf(pattern, lane).value));
    return pins;
  };
  if (meeting && pinsIn(*meeting) <= kMostLoopPins) return *meeting;
  Beats length = own;
  while (length * 2 <= kMostMeeting && pinsIn(length * 2) <= kMostLoopPins) length = length * 2;
  return length;
}

EventWriter::EventWriter(Score& score, const Project& project)
    : m_score(score), m_project(project) {
  std::unordered_map<Id, int> seen;
  for (std::size_t i = 0; i < score.patches.size(); i += std::size_t(score.patches[i].layers)) {
    const bool reversed = seen[score.patches[i].key]++ > 0; // they stand behind all the others
    if (anySound(score, int(i))) m_patches[patchKey(score.patches[i].key, reversed)] = int(i);
  }
}

int EventWriter::patchOf(const Pin& pin) const {
  const auto found = m_patches.find(patchKey(pin.key, pin.reversed));
  return found == m_patches.end() ? -1 : found->second;
}

void EventWriter::add(const Pattern& pattern, Beats from, Beats until,
                      const std::vector<Id>& resting) {
  std::size_t most = m_score.events.size();
  for (const auto& lane : pattern.lanes)
    most += lane.pins.size() *
            std::size_t(1 + (until - from).value /
                                std::max<std::int64_t>(1, lengthOf(pattern, lane).value));
  // A song adds its sections one by one: room grows by more than each of them needs.
  if (most > m_score.events.capacity())
    m_score.events.reserve(std::max(most, 2 * m_score.events.size()));
  for (const auto& lane : pattern.lanes) {
    if (lane.pins.empty() || std::find(resting.begin(), resting.end(), lane.part) != resting.end())
      continue;
    const Beats length = lengthOf(pattern, lane);
    const Hearing hearing(m_project, pattern.meter, lane);
    std::vector<Written> written;
    written.reserve(lane.pins.size());
    const Pin* last = nullptr; // lanes mostly strike one key
    int patch = -1;
    for (const auto& pin : lane.pins) {
      if (pin.at >= length) break;
      if (!last || last->key != pin.key || last->reversed != pin.reversed) patch = patchOf(pin);
      last = &pin;
      if (patch >= 0)
        written.push_back({&pin, patch, hearing.heardAt(pin), hearing.velocityOf(pin)});
    }
    const std::int64_t rounds = (until.value - from.value + length.value - 1) / length.value;
    Round round{from, until, 0, std::int32_t(rounds)};
    for (; round.start < until; round.start += length, ++round.number)
      for (const auto& each : written) {
        if (round.start + each.pin->at >= until) break;
        addPin(each, hearing, round, pattern.id);
      }
  }
}

void EventWriter::addPin(const Written& written, const Hearing& hearing, const Round& round,
                         Id pattern) {
  const Pin& pin = *written.pin;
  ScoreEvent event;
  event.patch = written.patch;
  event.from = float(pin.start);
  event.bright = float(pin.bright);
  event.pan = float(pin.pan);
  event.chance = float(pin.odds.chance);
  event.every = std::uint8_t(pin.odds.every);
  event.which = std::uint8_t(pin.odds.turn - 1);
  if (pin.odds.chance < 1)
    event.dice = std::uint32_t(Random((std::uint64_t(pattern) << 32 ^ pin.key) +
                                      std::uint64_t(pin.at.value) * 0x9e3779b97f4a7c15ULL)
                                   .next());
  event.round = round.number;
  event.rounds = round.rounds;
  const double place = double(round.start.value) + written.heard;
  if (pin.flam.before.value > 0)
    strike(event, place - hearing.ticksOf(pin.flam.before), written.velocity * pin.flam.level,
           pin.tune.value, pin.length, hearing);
  for (int hit = 0; hit < pin.roll.hits; ++hit) {
    const double share = pin.roll.hits > 1 ? double(hit) / double(pin.roll.hits - 1) : 0;
    const double velocity =
        std::clamp(written.velocity * (1 + (pin.roll.endLevel - 1) * share), 0.02, 1.0);
    const Beats hold = pin.roll.hits > 1 && pin.length.value > 0
                           ? std::min(pin.length, pin.roll.step)
                           : pin.length;
    const double at = place + double(pin.roll.step.value) * hit;
    if (hit > 0 && at >= double(round.until.value)) break;
    strike(event, at, velocity, pin.tune.value + pin.roll.endTune.value * share, hold, hearing);
  }
}

void EventWriter::strike(ScoreEvent event, double place, double velocity, double tune, Beats hold,
                         const Hearing& hearing) {
  // One rounding of the whole place, so that every bar of a long song is as exact as the first.
  event.frame = hearing.frameAt(Beats(0), place, kEngineRate).value;
  event.gain = gainOfVelocity(velocity);
  event.tune = tune == 0 ? 1 : ratioOf(Semitones(tune));
  event.hold = hold.value > 0 ? hearing.frameAt(hold, 0, kEngineRate).value : 0;
  const Patch& played = m_score.patches[std::size_t(event.patch)];
  if (played.lead > 0) { // it begins before its pin, and what there is no room for is left out
    event.frame =
        std::max<std::int64_t>(0, event.frame) - toNearest<std::int64_t>(played.lead / event.tune);
    event.skip = std::max<std::int64_t>(0, -event.frame);
  }
  if (event.hold == 0 && played.loopEnd > 0) // once through
    event.hold = toWhole<std::int64_t>(double(played.loopEnd) / (played.step * event.tune));
  m_score.events.push_back(event);
}

void EventWriter::goRound() {
  const std::int64_t length = m_score.length;
  for (auto& event : m_score.events) {
    event.early = event.frame < 0;
    if (event.frame < 0)
      event.frame = length - 1 - (-event.frame - 1) % length;
    else if (event.frame >= length)
      event.frame %= length;
  }
}

void EventWriter::finish() {
  auto& events = m_score.events;
  for (auto& event : events) event.frame = std::max<std::int64_t>(0, event.frame);
  std::erase_if(events, [&](const ScoreEvent& e) { return e.frame >= m_score.length; });
  // Places are put in order, and then the events, which are large, are moved once each, round their
  // cycles.
  std::vector<std::pair<std::int64_t, std::uint32_t>> order;
  order.reserve(events.size());
  for (const auto& event : events) order.emplace_back(event.frame, std::uint32_t(order.size()));
  std::sort(order.begin(), order.end());
  for (std::uint32_t begin = 0; begin < order.size(); ++begin) {
    std::uint32_t hole = begin;
    if (order[hole].second == hole) continue;
    const ScoreEvent first = events[begin];
    for (std::uint32_t from = order[hole].second; from != begin; from = order[hole].second) {
      events[hole] = events[from];
      order[hole].second = hole;
      hole = from;
    }
    events[hole] = first;
    order[hole].second = hole;
  }
  for (auto& event : events) event.turn = m_score.patches[std::size_t(event.patch)].turns++;
}

} // namespace tuvvo
