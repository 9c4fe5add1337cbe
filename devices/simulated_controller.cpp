#include "devices/simulated_controller.h"

#include "base/convert.h"
#include "base/random.h"
#include "base/steady_clock.h"

#include <algorithm>
#include <chrono>

namespace tuvvo {

namespace {

/// A hit of a figure: sixteenth of a bar, General MIDI percussion note, velocity.
struct FigureHit {
  double sixteenth;
  int note, velocity;
};
constexpr int kKick = 36, kSnare = 38, kHat = 42, kOpenHat = 46, kClap = 39;

std::vector<FigureHit> figure(int which, int bar) {
  std::vector<FigureHit> hits{
      {0, kKick, 118}, {4, kSnare, 110}, {10, kKick, 98}, {12, kSnare, 114}};
  if (which == 0) {
    for (int i = 0; i < 16; i += 2) hits.push_back({double(i), kHat, i % 4 == 0 ? 88 : 62});
    return hits;
  }
  hits.push_back({7, kKick, 70});
  hits.push_back({9, kSnare, 36}); // a ghost
  hits.push_back({15, kSnare, 42});
  const double step = which == 2 && bar % 2 == 1 ? 0.5 : 1;
  for (double i = 0; i < 16; i += step)
    hits.push_back(
        {i, kHat,
         int(46 + 40 * (toWhole<std::int64_t>(i) % 4 == 0) + 10 * (i == toWhole<int>(i)))});
  if (bar % 4 == 3) hits.push_back({14, kOpenHat, 100});
  if (bar % 2 == 1) hits.push_back({12, kClap, 90});
  return hits;
}

} // namespace

std::vector<TimedMidi> SimulatedController::played(const Player& player) {
  std::vector<TimedMidi> out;
  Random random(player.seed);
  const double sixteenth = 15 / std::clamp(player.bpm, 20.0, 400.0);
  for (int bar = 0; bar < std::clamp(player.bars, 1, 64); ++bar)
    for (const auto& hit : figure(std::clamp(player.figure, 0, kFigures - 1), bar)) {
      const double off = (player.lateMs + player.looseMs * random.bell()) / 1000;
      const double at =
          std::max(0.0, player.leadInS + (bar * 16 + hit.sixteenth) * sixteenth + off);
      const int velocity = std::clamp(hit.velocity + toWhole<int>(6 * random.bell()), 1, 127);
      out.push_back({at, {MidiKind::NoteOn, 9, hit.note, velocity}});
      out.push_back({at + 0.04, {MidiKind::NoteOff, 9, hit.note, 0}});
    }
  std::stable_sort(out.begin(), out.end(),
                   [](const TimedMidi& a, const TimedMidi& b) { return a.atS < b.atS; });
  return out;
}

SimulatedController::SimulatedController() : m_thread([this] { run(); }) {}

SimulatedController::~SimulatedController() {
  {
    std::lock_guard lock(m_mutex);
    m_ending = true;
  }
  m_wake.notify_all();
  m_thread.join();
}

void SimulatedController::setCall(MidiCall call) {
  std::lock_guard lock(m_mutex); // calls are made under it
  m_call = std::move(call);
}

void SimulatedController::play(std::vector<TimedMidi> what) {
  stop();
  {
    std::lock_guard lock(m_mutex);
    m_what = std::move(what);
    m_next = 0;
    m_start = steadyNow();
    m_playing = !m_what.empty();
  }
  m_wake.notify_all();
}

void SimulatedController::send(const MidiMessage& message) {
  std::lock_guard lock(m_mutex);
  if (m_call) m_call(message, steadyNow());
}

void SimulatedController::stop() {
  std::lock_guard lock(m_mutex);
  // Whatever was struck is let go.
  for (std::size_t i = m_next; i < m_what.size(); ++i)
    if (m_what[i].message.kind == MidiKind::NoteOff && m_call)
      m_call(m_what[i].message, steadyNow());
  m_what.clear();
  m_next = 0;
  m_playing = false;
}

void SimulatedController::run() {
  std::unique_lock lock(m_mutex);
  while (!m_ending) {
    if (m_next >= m_what.size()) {
      m_playing = false;
      m_wake.wait(lock, [this] { return m_ending || m_next < m_what.size(); });
      continue;
    }
    const Nanoseconds due = m_start + Nanoseconds(toWhole<std::int64_t>(m_what[m_next].atS * 1e9));
    if (const Nanoseconds left = due - steadyNow(); left.value > 0) {
      m_wake.wait_for(lock, std::chrono::nanoseconds(left.value));
      continue;
    }
    // When it was meant, as a real controller's own clock has it; the thread may be a little late.
    if (m_call) m_call(m_what[m_next].message, due);
    ++m_next;
  }
}

} // namespace tuvvo
