#include "play/engine.h"

#include "audio/probe.h"
#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

/// A click of the metronome: every unit of the meter, high where a bar begins.
struct Click {
  EngineFrames frame{};
  bool high = false;
};

/// The first click at or after a frame.
Click clickFrom(const Score& score, EngineFrames frame) {
  // A span's own first click lies within half a frame of its place.
  const double ticks = score.tempo.ticksAt(double(frame.value) + 0.5, kEngineRate);
  const MeterSpan& span = score.spanAt(ticks);
  const std::int64_t unit = unitOf(span.meter).value;
  const auto frameOf = [&](std::int64_t n) { return score.frameAt(span.start + Beats(n * unit)); };
  auto n = toWhole<std::int64_t>(std::floor((ticks - double(span.start.value)) / double(unit))) - 1;
  while (frameOf(n) < frame) ++n;
  const Click found{frameOf(n), n % span.meter.beats == 0};
  // The next span begins with a click of its own.
  const MeterSpan* after = &span + 1;
  if (after == score.meters.data() + score.meters.size()) return found;
  const EngineFrames next = score.frameAt(after->start);
  return next <= found.frame && next >= frame ? Click{next, true} : found;
}

} // namespace

Engine::Engine(Prefetcher* prefetcher, SincBank::Make sincs)
    : m_bank(sincs), m_prefetcher(prefetcher) {
  (void)probeWave(); // made here, outside the audio thread
  // A tick, a block of wood (two partials that ring shortly) and a soft tone, each an octave apart
  // for the first beat of a bar.
  struct Shape {
    double hz, second, fall, rise, level;
  };
  constexpr std::array<Shape, kClickSounds> shapes{
      Shape{880, 0, 160, 0, 0.35}, {620, 2.57, 95, 0, 0.4}, {440, 0, 45, 0.004, 0.3}};
  for (std::size_t sound = 0; sound < shapes.size(); ++sound)
    for (std::size_t high = 0; high < 2; ++high)
      for (std::size_t i = 0; i < std::size_t(kClickFrames); ++i) {
        const Shape& shape = shapes[sound];
        const double t = double(i) / kEngineRate.value, w = 2 * M_PI * shape.hz * double(1 + high);
        double v = std::sin(w * t);
        if (shape.second > 0) v = 0.6 * v + 0.4 * std::sin(w * shape.second * t);
        const double rise = shape.rise > 0 ? std::min(1.0, t / shape.rise) : 1.0,
                     end = std::min(1.0, double(kClickFrames - i) / 240);
        m_clicks[sound][high][i] = float(shape.level * rise * end * std::exp(-t * shape.fall) * v);
      }
}

Engine::~Engine() {
  collect();
  delete m_incoming.exchange(nullptr);
  for (ScoreSlot* slot : m_slots) delete slot;
}

void Engine::setScore(ScorePtr score) {
  collect();
  auto* slot = new ScoreSlot;
  slot->score = std::move(score);
  slot->graph = m_maker.make(slot->score->graph);
  if (m_prefetcher) prefetch(*slot);
  delete m_incoming.exchange(slot, std::memory_order_acq_rel);
}

void Engine::collect() {
  ScoreSlot* slot = nullptr;
  while (m_retired.pop(slot)) delete slot;
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
  for (int i = 0; i < kSlots && place < 0; ++i)
    if (!m_slots[std::size_t(i)]) place = i;
  if (place < 0) {
    // So many scores still sound (a slide dragged over long tails): end the old ones first.
    for (auto& voice : m_voices)
      if (voice.sounding() && voice.owner() != m_current) voice.cutOff();
    return;
  }
  ScoreSlot* slot = m_incoming.exchange(nullptr, std::memory_order_acq_rel);
  if (!slot) return;
  const Score& next = *slot->score;
  if (m_current >= 0) {
    const Score& last = *m_slots[std::size_t(m_current)]->score;
    settleRolls();
    if (last.tempo != next.tempo)
      m_position = EngineFrames(
          toNearest<std::int64_t>(next.tempo.framesAt(last.ticksAt(m_position), kEngineRate)));
  }
  holdInLoop(next);
  m_slots[std::size_t(place)] = slot;
  const Graph* last = m_current >= 0 ? &graph() : nullptr;
  m_current = place;
  graph().begin(last);
  m_asideWaits.setDelay(graph().latency());
  if (last) aimVoices(*last);
  findNextEvent();
  changeAudition();
  anchorRolls();
}

/// What sounds already goes into the buses of the new graph, with its key's level, pan and mute as
/// they are now.
void Engine::aimVoices(const Graph& last) {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  for (std::size_t i = 0; i < m_voices.size(); ++i) {
    Voice& voice = m_voices[i];
    if (!voice.sounding()) continue;
    m_busOf[i] = graph().same(last.plan(), m_busOf[i]);
    const int first = score.patchOf(voice.patch()->key);
    if (first < 0) continue;
    const Patch& key = score.patches[std::size_t(first)];
    const int layer = std::min(voice.patch()->layer, key.layers - 1);
    voice.aim(score.patches[std::size_t(first + layer)]);
  }
}

void Engine::retireSlots() {
  // What leaves a chain belongs to an older graph, and sounds for a moment more.
  if (m_current >= 0 && graph().leaving()) return;
  for (int i = 0; i < kSlots; ++i) {
    ScoreSlot*& slot = m_slots[std::size_t(i)];
    if (slot && i != m_current && slot->voices == 0 && m_retired.push(slot)) slot = nullptr;
  }
}

/// Outside of what goes round the music goes on inside, as far into a round as it would be by now;
/// what stands still stands at its start.
void Engine::holdInLoop(const Score& score) {
  const EngineFrames round = score.round();
  if (!score.loops || round.value <= 0 || countsIn()) return;
  const EngineFrames before = m_position;
  if (before >= score.loopStart && before < score.length) return;
  m_position = score.loopStart;
  if (m_playing) m_position += EngineFrames(wrapped((before - score.loopStart).value, round.value));
}

void Engine::findNextEvent() {
  const auto& events = m_slots[std::size_t(m_current)]->score->events;
  m_nextEvent = std::size_t(
      std::lower_bound(events.begin(), events.end(), m_position,
                       [](const ScoreEvent& e, EngineFrames place) { return e.frame < place; }) -
      events.begin());
}

void Engine::startAt(EngineFrames place) {
  settleRolls();
  m_position = place;
  m_pass = 0;
  m_playing = true;
  ++m_startCount;
  findNextEvent();
  phaseAudition();
  anchorRolls();
}

int Engine::lateness() const {
  const int graph = m_current >= 0 ? m_slots[std::size_t(m_current)]->graph->latency() : 0;
  return graph + (m_limits ? Limiter::kLatency : 0);
}

void Engine::stopScored() {
  settleRolls();
  m_playing = false;
  for (auto& voice : m_voices)
    if (voice.sounding() && !voice.live()) voice.cutOff();
  anchorRolls();
}

void Engine::handle(const Command& command) {
  using Kind = Command::Kind;
  switch (command.kind) {
  case Kind::Metronome:
    m_metronome = command.on;
    m_clickSound = std::clamp(command.sound, 0, kClickSounds - 1);
    m_clickLevel = std::clamp(command.level, 0.0f, 4.0f);
    return;
  case Kind::Probe:
    m_probeFrame = 0;
    return;
  case Kind::Silence:
    for (auto& voice : m_voices) voice.cutOff();
    for (auto& note : m_heldNotes) note.held = false;
    return;
  case Kind::Stop:
    if (m_playing) stopScored();
    return;
  default:
    break;
  }
  if (m_current < 0) return;
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  switch (command.kind) {
  case Kind::Play:
    if (score.length.value <= 0) return;
    stopScored();
    startAt(command.frame);
    break;
  case Kind::Seek:
    settleRolls();
    m_position = std::clamp(command.frame, EngineFrames(0),
                            std::max(EngineFrames(0), score.length - EngineFrames(1)));
    ++m_startCount;
    findNextEvent();
    phaseAudition();
    if (m_playing) {
      stopScored();
      m_playing = true;
    }
    anchorRolls();
    break;
  default:
    handleHeldNotes(command);
    break;
  }
}

/// Frames that may be rendered before something happens.
int Engine::untilNext(int frames) const {
  constexpr EngineFrames kOne(1);
  EngineFrames until = std::min(EngineFrames(frames), untilRoll());
  if (!m_playing) return int(until.value);
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  if (countsIn()) until = std::min(until, -m_position);
  until = std::min(until, std::max(kOne, score.length - m_position));
  if (m_nextEvent < score.events.size())
    until = std::min(until, std::max(kOne, score.events[m_nextEvent].frame - m_position));
  if (m_metronome || countsIn())
    until = std::min(until, clickFrom(score, m_position + kOne).frame - m_position);
  return int(std::max(kOne, until).value);
}

/// What happens exactly at the position, before its frame is rendered.
void Engine::atPlace() {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  // Counted in, or started before what goes round.
  if (score.loops && !countsIn()) m_position = std::max(m_position, score.loopStart);
  if (m_position >= score.length) {
    if (!score.loops) {
      m_playing = false;
      m_reports.push(reportOf(Report::Kind::Ended, 0));
      return;
    }
    m_position -= score.round();
    ++m_pass;
    m_nextEvent = 0;
    keepAuditionInPhase();
    alignRolls();
  }
  if (m_metronome || countsIn()) {
    if (const Click next = clickFrom(score, m_position); next.frame == m_position) {
      m_clickFrame = 0;
      m_clickHigh = next.high;
    }
  }
  const auto scored = [&](const ScoreEvent& event, EngineFrames skip, std::int64_t pass) {
    if (!isStruck(event, pass)) return;
    const Patch& first = score.patches[std::size_t(event.patch)];
    const bool erased = std::find(m_erased.begin(), m_erased.end(), first.key) != m_erased.end();
    if (erased && first.key != 0) return; // 0 is a free place among them
    strike(event, 0, event.turn + std::uint32_t(m_pass) * first.turns, skip);
  };
  if (m_position == score.loopStart && m_pass == 0)
    for (const auto& event : score.events)
      if (event.early) scored(event, event.skip, 0);
  while (m_nextEvent < score.events.size() && score.events[m_nextEvent].frame <= m_position) {
    const auto& event = score.events[m_nextEvent++];
    if (event.early) // it belongs to the round that follows
      scored(event, EngineFrames(0), m_pass + 1);
    else
      scored(event, event.skip, m_pass);
  }
}

void Engine::click(float* left, float* right, int frames) {
  if (m_clickFrame < 0) return;
  const ClickWave& wave = m_clicks[std::size_t(m_clickSound)][m_clickHigh ? 1 : 0];
  for (int i = 0; i < frames && m_clickFrame < kClickFrames; ++i, ++m_clickFrame) {
    const float v = m_clickLevel * wave[std::size_t(m_clickFrame)];
    left[i] += v;
    right[i] += v;
  }
  if (m_clickFrame >= kClickFrames) m_clickFrame = -1;
}

void Engine::render(int frames) {
  for (std::size_t i = 0; i < m_voices.size(); ++i) {
    Voice& voice = m_voices[i];
    if (!voice.sounding()) continue;
    ScoreSlot* slot = m_slots[std::size_t(voice.owner())];
    const auto index = std::size_t(voice.patch() - slot->score->patches.data());
    const bool shown = voice.owner() == m_current && index < m_levels.size();
    BusRun& bus = graph().bus(m_busOf[i]);
    if (bus.silent() || voice.silent()) {
      voice.pass(frames);
      if (bus.silent()) bus.pass();
    } else {
      const auto in = bus.input();
      const float loudest =
          voice.render(in.left + m_offset, in.right + m_offset, frames) * bus.gain();
      if (shown && loudest > m_levels[index].load(std::memory_order_relaxed))
        m_levels[index].store(loudest, std::memory_order_relaxed);
    }
    if (!voice.sounding()) --slot->voices;
  }
  renderAudition(m_asideLeft.data() + m_offset, m_asideRight.data() + m_offset, frames);
  click(m_asideLeft.data() + m_offset, m_asideRight.data() + m_offset, frames);
}

/// What happens in a quantum falls on its own frame; buses and processors work through all of it.
void Engine::renderQuantum() {
  const EngineFrames from = m_clock;
  for (Channel* channel : {&m_outLeft, &m_outRight, &m_asideLeft, &m_asideRight}) channel->fill(0);
  for (m_offset = 0; m_offset < kQuantum;) {
    if (m_playing) atPlace();
    rollOn();
    const int n = untilNext(kQuantum - m_offset);
    render(n);
    if (m_playing) m_position += EngineFrames(n);
    m_clock += EngineFrames(n);
    m_offset += n;
  }
  m_offset = 0;
  if (m_current >= 0) graph().finish(from.value, m_outLeft.data(), m_outRight.data());
  m_asideWaits.process(m_asideLeft.data(), m_asideRight.data());
  if (m_prefetcher) tellWhatIsRead();
  for (std::size_t i = 0; i < std::size_t(kQuantum); ++i) {
    m_outLeft[i] += m_asideLeft[i];
    m_outRight[i] += m_asideRight[i];
  }
  m_ready = kQuantum;
}

void Engine::giveOut(float* left, float* right, int frames) {
  for (int done = 0; done < frames;) {
    if (m_ready == 0) renderQuantum();
    const int n = std::min(frames - done, m_ready), from = kQuantum - m_ready;
    std::copy_n(m_outLeft.begin() + from, n, left + done);
    std::copy_n(m_outRight.begin() + from, n, right + done);
    m_ready -= n;
    done += n;
  }
}

void Engine::process(float* left, float* right, int frames, Nanoseconds now, const float* inLeft,
                     const float* inRight) {
  m_now = now;
  m_ahead = m_ready;
  takeScore();
  Command command{};
  for (auto& queue : m_commands)
    while (queue.pop(command)) handle(command);
  const InputLine::Place place = placeNow();
  m_ahead = 0;
  giveOut(left, right, frames);
  if (inLeft) takeInput(inLeft, inRight ? inRight : inLeft, left, right, frames, place);
  if (m_probeFrame >= 0) sendProbe(left, right, frames);
  if (m_limits)
    for (int i = 0; i < frames; ++i) m_limiter.process(left[i], right[i]);
  show(left, right, frames);
  retireSlots();
}

/// Figures for other threads.
void Engine::show(const float* left, const float* right, int frames) {
  float peakLeft = 0, peakRight = 0;
  for (int i = 0; i < frames; ++i) {
    peakLeft = std::max(peakLeft, std::abs(left[i]));
    peakRight = std::max(peakRight, std::abs(right[i]));
  }
  if (peakLeft > m_peakLeft.load(std::memory_order_relaxed))
    m_peakLeft.store(peakLeft, std::memory_order_relaxed);
  if (peakRight > m_peakRight.load(std::memory_order_relaxed))
    m_peakRight.store(peakRight, std::memory_order_relaxed);
  if (m_limiter.gain() < m_shownGain.load(std::memory_order_relaxed))
    m_shownGain.store(m_limiter.gain(), std::memory_order_relaxed);
  EngineFrames position = m_playing ? m_position - EngineFrames(m_ready) : m_position;
  std::int64_t pass = m_pass;
  if (m_current >= 0) {
    const Score& score = *m_slots[std::size_t(m_current)]->score;
    if (position < score.loopStart && pass > 0) { // the round before has not been given out
      position += score.round();
      --pass;
    }
    m_shownAbsolute.store(position + score.round() * pass, std::memory_order_relaxed);
    m_shownBeats.store(score.beatsAt(position), std::memory_order_relaxed);
  }
  m_shownPosition.store(position, std::memory_order_relaxed);
  m_shownLatency.store(lateness(), std::memory_order_relaxed);
  m_shownPlaying.store(m_playing, std::memory_order_relaxed);
  int sounding = 0;
  for (const auto& voice : m_voices) sounding += voice.sounding() ? 1 : 0;
  m_shownVoices.store(sounding, std::memory_order_relaxed);
}

} // namespace tuvvo
