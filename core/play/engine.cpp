#include "play/engine.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

std::int64_t beatFrame(const Score& score, std::int64_t beat) {
  return std::llround(double(beat) * score.framesPerBeat);
}

/// The first beat at or after a frame.
std::int64_t beatFrom(const Score& score, std::int64_t frame) {
  auto beat = std::int64_t(std::floor(double(frame) / score.framesPerBeat)) - 1;
  while (beatFrame(score, beat) < frame) ++beat;
  return beat;
}

} // namespace

Engine::Engine() : m_bank(SincBank::shared()) {
  // Clicks: 40 ms of a falling sine, an octave apart for the first beat of a bar.
  for (std::size_t i = 0; i < m_clickLow.size(); ++i) {
    const double t = double(i) / kEngineRate.value, fall = 0.35 * std::exp(-t * 160);
    m_clickLow[i] = float(fall * std::sin(2 * M_PI * 880 * t));
    m_clickHighSound[i] = float(fall * std::sin(2 * M_PI * 1760 * t));
  }
}

Engine::~Engine() {
  collect();
  delete m_incoming.exchange(nullptr);
  for (Box* box : m_boxes) delete box;
}

void Engine::setScore(ScorePtr score) {
  collect();
  auto* box = new Box{std::move(score), 0};
  delete m_incoming.exchange(box, std::memory_order_acq_rel);
}

void Engine::collect() {
  Box* box = nullptr;
  while (m_retired.pop(box)) delete box;
}

std::array<float, 2> Engine::takePeaks() {
  return {m_peakLeft.exchange(0, std::memory_order_relaxed),
          m_peakRight.exchange(0, std::memory_order_relaxed)};
}

float Engine::takeLevel(int patch) {
  if (patch < 0 || patch >= kMostPatches) return 0;
  return m_levels[std::size_t(patch)].exchange(0, std::memory_order_relaxed);
}

void Engine::takeScore() {
  if (!m_incoming.load(std::memory_order_relaxed)) return;
  int place = -1;
  for (int i = 0; i < kBoxes && place < 0; ++i)
    if (!m_boxes[std::size_t(i)]) place = i;
  if (place < 0) {
    // So many scores still sound (a slide dragged over long tails): end the old ones first.
    for (auto& voice : m_voices)
      if (voice.sounding() && voice.owner() != m_current) voice.cutOff();
    return;
  }
  Box* box = m_incoming.exchange(nullptr, std::memory_order_acq_rel);
  if (!box) return;
  const Score& next = *box->score;
  if (m_current >= 0) {
    const Score& last = *m_boxes[std::size_t(m_current)]->score;
    if (last.framesPerBeat != next.framesPerBeat)
      m_position = std::llround(double(m_position) * next.framesPerBeat / last.framesPerBeat);
  }
  if (next.loops && next.length > 0 && m_position >= next.length) m_position %= next.length;
  m_boxes[std::size_t(place)] = box;
  m_current = place;
  findNextEvent();
  changeAudition();
}

void Engine::retireBoxes() {
  for (int i = 0; i < kBoxes; ++i) {
    Box*& box = m_boxes[std::size_t(i)];
    if (box && i != m_current && box->voices == 0 && m_retired.push(box)) box = nullptr;
  }
}

void Engine::findNextEvent() {
  const auto& events = m_boxes[std::size_t(m_current)]->score->events;
  m_nextEvent = std::size_t(
      std::lower_bound(events.begin(), events.end(), m_position,
                       [](const ScoreEvent& e, std::int64_t frame) { return e.frame < frame; }) -
      events.begin());
}

void Engine::startAt(std::int64_t frame) {
  m_position = frame;
  m_pass = 0;
  m_playing = true;
  findNextEvent();
  phaseAudition();
}

void Engine::stopScored() {
  m_playing = false;
  for (auto& voice : m_voices)
    if (voice.sounding() && !voice.live()) voice.cutOff();
}

void Engine::obey(const Command& command) {
  using Kind = Command::Kind;
  switch (command.kind) {
  case Kind::Metronome:
    m_metronome = command.on;
    return;
  case Kind::Silence:
    for (auto& voice : m_voices) voice.cutOff();
    return;
  case Kind::Stop:
    if (m_playing) stopScored();
    return;
  default:
    break;
  }
  if (m_current < 0) return;
  const Score& score = *m_boxes[std::size_t(m_current)]->score;
  switch (command.kind) {
  case Kind::Play:
    if (score.length <= 0) return;
    stopScored();
    startAt(command.frame);
    break;
  case Kind::Seek:
    m_position =
        std::clamp<std::int64_t>(command.frame, 0, std::max<std::int64_t>(0, score.length - 1));
    findNextEvent();
    phaseAudition();
    if (m_playing) {
      stopScored();
      m_playing = true;
    }
    break;
  case Kind::Strike: {
    const int patch = score.patchOf(command.key);
    if (patch < 0 || !score.patches[std::size_t(patch)].sound) return;
    ScoreEvent event;
    event.patch = patch;
    event.gain = gainOfVelocity(command.velocity);
    event.tune = double(command.tune);
    strike(event, true, 0);
    m_reports.push(
        {Report::Kind::Struck, command.key, command.velocity, m_position, m_pass, m_playing});
    break;
  }
  case Kind::Release:
    for (auto& voice : m_voices)
      if (voice.sounding() && voice.live() && voice.patch()->key == command.key) voice.letGo();
    m_reports.push({Report::Kind::Released, command.key, 0, m_position, m_pass, m_playing});
    break;
  default:
    break;
  }
}

void Engine::strike(const ScoreEvent& event, bool live, std::int64_t skip) {
  Box* box = m_boxes[std::size_t(m_current)];
  const Patch& patch = box->score->patches[std::size_t(event.patch)];
  if (patch.choke != 0)
    for (auto& voice : m_voices)
      if (voice.sounding() && voice.patch()->choke == patch.choke) voice.cutOff();
  int free = -1, sounding = 0, oldest = -1;
  for (int i = 0; i < kVoices; ++i) {
    const auto& voice = m_voices[std::size_t(i)];
    if (!voice.sounding())
      free = i;
    else if (!voice.ending()) {
      ++sounding;
      if (oldest < 0 || m_age - m_ages[std::size_t(i)] > m_age - m_ages[std::size_t(oldest)])
        oldest = i;
    }
  }
  // The oldest is faded a little before there is no room, so that nothing clicks.
  if (sounding >= kVoices - kSpareVoices && oldest >= 0) m_voices[std::size_t(oldest)].cutOff();
  if (free < 0) return;
  Voice::Start start;
  start.patch = &patch;
  start.gain = event.gain * box->score->strips[std::size_t(patch.strip)].gain;
  start.tune = event.tune;
  start.hold = event.hold;
  start.skip = skip;
  start.live = live;
  start.owner = m_current;
  if (start.gain <= 0 || patch.end <= patch.start) return;
  m_voices[std::size_t(free)].start(start, m_bank);
  m_ages[std::size_t(free)] = ++m_age;
  ++box->voices;
}

/// Frames that may be rendered before something happens.
int Engine::untilNext(int frames) const {
  if (!m_playing) return frames;
  const Score& score = *m_boxes[std::size_t(m_current)]->score;
  std::int64_t until = frames;
  if (m_position < 0) until = std::min(until, -m_position);
  until = std::min(until, std::max<std::int64_t>(1, score.length - m_position));
  if (m_nextEvent < score.events.size())
    until =
        std::min(until, std::max<std::int64_t>(1, score.events[m_nextEvent].frame - m_position));
  if (m_metronome || m_position < 0) {
    const std::int64_t next = beatFrame(score, beatFrom(score, m_position + 1));
    until = std::min(until, next - m_position);
  }
  return int(std::max<std::int64_t>(1, until));
}

/// What happens exactly at the position, before its frame is rendered.
void Engine::atPlace() {
  const Score& score = *m_boxes[std::size_t(m_current)]->score;
  if (m_position >= score.length) {
    if (!score.loops) {
      m_playing = false;
      m_reports.push({Report::Kind::Ended, 0, 0, m_position, m_pass, false});
      return;
    }
    m_position -= score.length;
    ++m_pass;
    m_nextEvent = 0;
    keepAuditionInPhase();
  }
  if (m_metronome || m_position < 0) {
    const std::int64_t beat = beatFrom(score, m_position);
    if (beatFrame(score, beat) == m_position) {
      m_clickFrame = 0;
      m_clickHigh = beat % score.beatsPerBar == 0;
    }
  }
  if (m_position == 0 && m_pass == 0)
    for (const auto& event : score.events)
      if (event.early) strike(event, false, event.skip);
  while (m_nextEvent < score.events.size() && score.events[m_nextEvent].frame <= m_position) {
    const auto& event = score.events[m_nextEvent++];
    strike(event, false, event.early ? 0 : event.skip);
  }
}

void Engine::click(float* left, float* right, int frames) {
  if (m_clickFrame < 0) return;
  const auto& sound = m_clickHigh ? m_clickHighSound : m_clickLow;
  for (int i = 0; i < frames && m_clickFrame < int(sound.size()); ++i, ++m_clickFrame) {
    left[i] += sound[std::size_t(m_clickFrame)];
    right[i] += sound[std::size_t(m_clickFrame)];
  }
  if (m_clickFrame >= int(sound.size())) m_clickFrame = -1;
}

void Engine::render(float* left, float* right, int frames) {
  std::fill(left, left + frames, 0.0f);
  std::fill(right, right + frames, 0.0f);
  for (auto& voice : m_voices) {
    if (!voice.sounding()) continue;
    Box* box = m_boxes[std::size_t(voice.owner())];
    const auto index = std::size_t(voice.patch() - box->score->patches.data());
    const bool shown = voice.owner() == m_current && index < m_levels.size();
    const float loudest = voice.render(left, right, frames);
    if (shown && loudest > m_levels[index].load(std::memory_order_relaxed))
      m_levels[index].store(loudest, std::memory_order_relaxed);
    if (!voice.sounding()) --box->voices;
  }
  renderAudition(left, right, frames);
  click(left, right, frames);
}

void Engine::process(float* left, float* right, int frames) {
  takeScore();
  Command command{};
  while (m_commands.pop(command)) obey(command);
  int done = 0;
  while (done < frames) {
    if (m_playing) atPlace();
    const int n = untilNext(frames - done);
    render(left + done, right + done, n);
    if (m_playing) m_position += n;
    done += n;
  }
  float peakLeft = 0, peakRight = 0;
  for (int i = 0; i < frames; ++i) {
    if (m_limits) m_limiter.process(left[i], right[i]);
    peakLeft = std::max(peakLeft, std::abs(left[i]));
    peakRight = std::max(peakRight, std::abs(right[i]));
  }
  if (peakLeft > m_peakLeft.load(std::memory_order_relaxed))
    m_peakLeft.store(peakLeft, std::memory_order_relaxed);
  if (peakRight > m_peakRight.load(std::memory_order_relaxed))
    m_peakRight.store(peakRight, std::memory_order_relaxed);
  m_shownGain.store(m_limiter.gain(), std::memory_order_relaxed);
  m_shownPosition.store(m_position, std::memory_order_relaxed);
  m_shownPlaying.store(m_playing, std::memory_order_relaxed);
  int sounding = 0;
  for (const auto& voice : m_voices) sounding += voice.sounding() ? 1 : 0;
  m_shownVoices.store(sounding, std::memory_order_relaxed);
  retireBoxes();
}

} // namespace tuvvo
