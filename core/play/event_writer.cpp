#include "play/event_writer.h"

#include "base/convert.h"
#include "base/random.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <tuple>

namespace tuvvo {

namespace {

constexpr std::size_t kMostLoopHits = 200'000;

constexpr EngineFrames kNone(0);
constexpr double kBakedStep = 0.5; ///< BPM: what is struck on a ramp is baked for the nearest

} // namespace

bool isStruck(const ScoreEvent& event, std::int64_t pass) {
  if (event.every <= 1 && event.chance >= 1 && event.treatedEvery <= 1) return true;
  const std::int64_t round = pass * event.rounds + event.round;
  if (event.treatedEvery > 1 && (round % event.treatedEvery == event.treatedWhich) != event.treated)
    return false;
  if (event.every > 1 && round % event.every != event.which) return false;
  if (event.chance >= 1) return true;
  Random dice((std::uint64_t(event.dice) << 32) + std::uint64_t(round));
  (void)dice.next();
  return dice.unit() < double(event.chance);
}

Beats loopLength(const Pattern& pattern) {
  const Beats own = lengthOf(pattern);
  const auto meeting = meetingOf(pattern);
  const auto hitsIn = [&](Beats length) {
    std::size_t hits = 0;
    for (const auto& lane : pattern.lanes)
      hits += lane.hits.size() *
              std::size_t(1 + (length.value - 1) /
                                  std::max<std::int64_t>(1, lengthOf(pattern, lane).value));
    return hits;
  };
  if (meeting && hitsIn(*meeting) <= kMostLoopHits) return *meeting;
  Beats length = own;
  while (length * 2 <= kMostMeeting && hitsIn(length * 2) <= kMostLoopHits) length = length * 2;
  return length;
}

EventWriter::EventWriter(Score& score, PatchWriter& patches, const Project& project)
    : m_score(score), m_patches(patches), m_project(project) {}

Bpm EventWriter::bakedTempoAt(double ticks) const {
  const Bpm tempo = m_score.tempo.tempoAt(ticks);
  return m_score.tempo.ramps(ticks) ? Bpm(std::round(tempo.value / kBakedStep) * kBakedStep)
                                    : tempo;
}

void EventWriter::add(const Pattern& pattern, Beats from, Beats until,
                      const std::vector<Id>& mutedParts) {
  std::size_t most = m_score.events.size();
  for (const auto& lane : pattern.lanes)
    most += lane.hits.size() *
            std::size_t(1 + (until - from).value /
                                std::max<std::int64_t>(1, lengthOf(pattern, lane).value));
  // A song adds its sections one by one: room grows by more than each of them needs.
  if (most > m_score.events.capacity())
    m_score.events.reserve(std::max(most, 2 * m_score.events.size()));
  for (const auto& lane : pattern.lanes) {
    if (lane.hits.empty() ||
        std::find(mutedParts.begin(), mutedParts.end(), lane.part) != mutedParts.end())
      continue;
    const Beats length = lengthOf(pattern, lane);
    const ResolvedTiming timed(m_project, pattern.meter, lane);
    std::vector<Written> written;
    written.reserve(lane.hits.size());
    Id key = 0; // lanes mostly strike one key
    HitSound last;
    int patch = -1;
    for (const auto& hit : lane.hits) {
      if (hit.at >= length) break;
      const bool always = hit.treatments.empty() || hit.treatments.list().every <= 1;
      for (bool treated : {true, false}) {
        if (!treated && always) break;
        const HitSound sound = m_patches.soundOf(hit, treated);
        if (key != hit.key || last != sound)
          patch = m_patches.patchOf(hit.key, sound, m_project.tempo);
        key = hit.key;
        last = sound;
        if (patch >= 0)
          written.push_back(
              {&hit, sound, patch, always, treated, timed.heardApart(hit), timed.velocityOf(hit)});
      }
    }
    const std::int64_t rounds = (until.value - from.value + length.value - 1) / length.value;
    Round round{from, until, 0, std::int32_t(rounds)};
    for (; round.start < until; round.start += length, ++round.number)
      for (const auto& each : written) {
        const Beats at = round.start + each.hit->at;
        if (at >= until) break;
        if (at < m_from) continue;
        addHit(each, timed, round, pattern.id);
      }
  }
}

void EventWriter::addHit(const Written& written, const ResolvedTiming& timed, const Round& round,
                         Id pattern) {
  const Hit& hit = *written.hit;
  ScoreEvent event;
  event.patch =
      m_score.tempo.steady()
          ? written.patch
          : m_patches.patchOf(hit.key, written.sound,
                              bakedTempoAt(double(round.start.value) + written.heard.ticks));
  event.from = float(hit.start);
  event.bright = float(hit.bright);
  event.pan = float(hit.pan);
  event.chance = float(hit.condition.chance);
  if (const Key* key = findKey(m_project, hit.key); key && hit.glide != Glide{})
    event.glide = EngineFrames(toFrames(glideOf(hit, *key), kEngineRate).value);
  event.glideFrom = hit.glide.from.value == 0 ? 1 : float(ratioOf(hit.glide.from));
  if (!written.always) {
    event.treated = written.treated;
    event.treatedEvery = std::uint8_t(hit.treatments.list().every);
    event.treatedWhich = std::uint8_t(hit.treatments.list().turn - 1);
  }
  event.every = std::uint8_t(hit.condition.every);
  event.which = std::uint8_t(hit.condition.turn - 1);
  if (hit.condition.chance < 1)
    event.dice = std::uint32_t(Random((std::uint64_t(pattern) << 32 ^ hit.key) +
                                      std::uint64_t(hit.at.value) * 0x9e3779b97f4a7c15ULL)
                                   .next());
  event.round = round.number;
  event.rounds = round.rounds;
  const ResolvedTiming::Heard place{double(round.start.value) + written.heard.ticks,
                                    written.heard.late};
  if (hit.flam.before.value > 0)
    strike(event, {place.ticks, place.late - hit.flam.before}, written.velocity * hit.flam.level,
           hit.tune.value, hit.length);
  for (int nth = 0; nth < hit.roll.hits; ++nth) {
    const double share = hit.roll.hits > 1 ? double(nth) / double(hit.roll.hits - 1) : 0;
    const double velocity =
        std::clamp(written.velocity * (1 + (hit.roll.endLevel - 1) * share), 0.02, 1.0);
    const Beats hold = hit.roll.hits > 1 && hit.length.value > 0
                           ? std::min(hit.length, hit.roll.step)
                           : hit.length;
    const double at = place.ticks + double(hit.roll.step.value) * nth;
    if (nth > 0 && at + timed.ticksOf(place.late) >= double(round.until.value)) break;
    strike(event, {at, place.late}, velocity, hit.tune.value + hit.roll.endTune.value * share,
           hold);
  }
}

void EventWriter::strike(ScoreEvent event, const ResolvedTiming::Heard& at, double velocity,
                         double pitch, Beats hold) {
  // One rounding of the whole place, so that every bar of a long song is as exact as the first.
  const TempoMap& tempo = m_score.tempo;
  event.frame = EngineFrames(toNearest<std::int64_t>(tempo.framesAt(at.ticks, kEngineRate) +
                                                     toSeconds(at.late).value * kEngineRate.value));
  event.gain = gainOfVelocity(velocity);
  event.tune = pitch == 0 ? 1 : ratioOf(Semitones(pitch));
  if (hold.value > 0)
    event.hold = EngineFrames(toNearest<std::int64_t>(
        tempo.framesBetween(at.ticks, at.ticks + double(hold.value), kEngineRate)));
  const Patch& played = m_score.patches[std::size_t(event.patch)];
  if (played.lead > 0) { // it begins before its hit, and what there is no room for is left out
    event.frame = std::max(kNone, event.frame) -
                  EngineFrames(toNearest<std::int64_t>(played.lead / event.tune));
    event.skip = std::max(kNone, -event.frame);
  }
  if (event.hold == kNone && played.loopEnd.value > 0) // once through
    event.hold = EngineFrames(
        toWhole<std::int64_t>(double(played.loopEnd.value) / (played.step * event.tune)));
  m_score.events.push_back(event);
}

void EventWriter::goRound() {
  const EngineFrames start = m_score.loopStart;
  for (auto& event : m_score.events) {
    event.early = event.frame < start;
    event.frame = start + EngineFrames(wrapped((event.frame - start).value, m_score.round().value));
  }
}

void EventWriter::finish() {
  auto& events = m_score.events;
  for (auto& event : events) event.frame = std::max(kNone, event.frame);
  std::erase_if(events, [&](const ScoreEvent& e) { return e.frame >= m_score.length; });
  // Places are put in order, and then the events, which are large, are moved once each, round their
  // cycles.
  std::vector<std::pair<EngineFrames, std::uint32_t>> order;
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
  countTurns();
}

/// Each key's hits, whatever tempo it was baked for.
void EventWriter::countTurns() {
  auto& patches = m_score.patches;
  std::map<std::tuple<Id, bool, int>, std::size_t> first;
  std::vector<std::size_t> counter(patches.size());
  for (std::size_t i = 0; i < patches.size(); ++i)
    counter[i] = first.try_emplace({patches[i].key, patches[i].reversed, patches[i].treated}, i)
                     .first->second;
  for (auto& event : m_score.events)
    event.turn = patches[counter[std::size_t(event.patch)]].turns++;
  for (std::size_t i = 0; i < patches.size(); ++i) patches[i].turns = patches[counter[i]].turns;
}

} // namespace tuvvo
