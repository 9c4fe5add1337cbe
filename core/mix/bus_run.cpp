#include "mix/bus_run.h"

#include "mix/pan.h"

#include <algorithm>

namespace tuvvo {

BusRun::BusRun(const BusPlan& plan, const ChainRun::List& chain, int inserts, DelayLine* out,
               const std::array<DelayLine*, kSends>& sends)
    : m_plan(plan), m_wanted(chain), m_inserts(inserts), m_out(out), m_sendDelays(sends) {
  m_ducker.plan(plan.duck);
  for (auto& send : m_sends) send = MovedValue(0, 1e-6);
}

void BusRun::takeOver(const BusRun& before) {
  m_chain.takeOver(before.m_chain);
  m_ducker = before.m_ducker;
  m_ducker.plan(m_plan.duck);
  m_gain = before.m_gain;
  m_pan = before.m_pan;
  m_width = before.m_width;
  m_sends = before.m_sends;
  m_matrix = before.m_matrix;
  m_resting = before.m_resting;
  m_quiet = before.m_quiet;
  m_plays = before.m_plays;
}

void BusRun::begin(bool atOnce) {
  m_chain.want(m_wanted, m_inserts, atOnce || m_resting);
  for (int i = 0; i < m_inserts; ++i) {
    const ProcessorPlan& plan = m_plan.chain[std::size_t(i)];
    Processor& processor = *m_wanted[std::size_t(i)].insert->processor;
    for (std::size_t p = 0; p < plan.values.size(); ++p) processor.set(p, plan.values[p]);
    if (atOnce || m_resting) processor.reset(); // it stands where it is set at once
  }
  m_gain.send(m_plan.muted ? 0 : double(m_plan.gain));
  m_pan.send(double(m_plan.pan));
  m_width.send(double(m_plan.width));
  for (std::size_t i = 0; i < kSends; ++i) m_sends[i].send(double(m_plan.sends[i]));
  if (!atOnce && !m_resting) return;
  stayQuiet();
  if (m_out) m_out->reset();
  for (DelayLine* send : m_sendDelays)
    if (send) send->reset();
}

BusRun::Input BusRun::input() {
  if (!m_fed) {
    m_fed = true;
    m_left.fill(0);
    m_right.fill(0);
  }
  return {m_left.data(), m_right.data()};
}

/// Nothing sounds that a step could be heard in; but what is muted may play on behind it.
void BusRun::stayQuiet() {
  if (!m_plays) m_gain.jump();
  m_pan.jump();
  m_width.jump();
  for (auto& send : m_sends) send.jump();
  m_matrix = stereoMatrix(m_gain.now(), m_pan.now(), m_width.now());
}

bool BusRun::finish(std::int64_t quantum) {
  const float* duck = m_ducker.finish(quantum);
  m_plays = m_passed;
  m_passed = false;
  if (m_fed) {
    m_quiet = 0;
    m_resting = false;
  } else if (m_resting) {
    return false;
  } else {
    m_quiet += kQuantum;
    m_left.fill(0);
    m_right.fill(0);
  }
  m_fed = false;
  if (duck)
    for (int i = 0; i < kQuantum; ++i) {
      m_left[std::size_t(i)] *= duck[i];
      m_right[std::size_t(i)] *= duck[i];
    }
  if (!m_chain.empty()) {
    m_chain.process(m_left.data(), m_right.data());
    float sum = 0;
    for (int i = 0; i < kQuantum; ++i)
      sum += std::abs(m_left[std::size_t(i)]) + std::abs(m_right[std::size_t(i)]);
    if (!(sum < kQuantum * kLoudestSample)) { // no number may stay in it for good
      m_chain.rest();
      m_left.fill(0);
      m_right.fill(0);
    }
  }
  fade();
  int waits = m_out ? m_out->most() : 0;
  for (const DelayLine* send : m_sendDelays)
    if (send) waits = std::max(waits, send->most());
  if (m_quiet > m_chain.tail() + m_chain.latency() + waits + kQuantum && !m_chain.leaving()) {
    m_chain.rest();
    if (m_out) m_out->reset();
    for (DelayLine* send : m_sendDelays)
      if (send) send->reset();
    m_resting = true;
  }
  return true;
}

/// Level, pan and width, from where they stood to where they are now.
void BusRun::fade() {
  std::array<float, 4> next = m_matrix;
  if (m_gain.moves() || m_pan.moves() || m_width.moves())
    next = stereoMatrix(m_gain.next(), m_pan.next(), m_width.next());
  constexpr std::array<float, 4> kPlain{1, 0, 0, 1};
  if (m_matrix == kPlain && next == kPlain) return;
  const auto [ll, lr, rl, rr] = m_matrix;
  const float step = 1.0f / kQuantum;
  const float dll = (next[0] - ll) * step, dlr = (next[1] - lr) * step, drl = (next[2] - rl) * step,
              drr = (next[3] - rr) * step;
  for (int i = 0; i < kQuantum; ++i) {
    const float l = m_left[std::size_t(i)], r = m_right[std::size_t(i)], n = float(i + 1);
    m_left[std::size_t(i)] = (ll + dll * n) * l + (lr + dlr * n) * r;
    m_right[std::size_t(i)] = (rl + drl * n) * l + (rr + drr * n) * r;
  }
  m_matrix = next;
}

void BusRun::addToSend(std::size_t send, const Input& to) {
  MovedValue& moved = m_sends[send];
  const auto from = float(moved.now());
  const auto until = float(moved.moves() ? moved.next() : moved.now());
  Channel l, r;
  for (int i = 0; i < kQuantum; ++i) {
    const float gain = from + (until - from) * float(i + 1) / kQuantum;
    l[std::size_t(i)] = gain * m_left[std::size_t(i)];
    r[std::size_t(i)] = gain * m_right[std::size_t(i)];
  }
  if (m_sendDelays[send]) m_sendDelays[send]->process(l.data(), r.data());
  for (int i = 0; i < kQuantum; ++i) {
    to.left[i] += l[std::size_t(i)];
    to.right[i] += r[std::size_t(i)];
  }
}

void BusRun::delayOutput() {
  if (m_out) m_out->process(m_left.data(), m_right.data());
}

} // namespace tuvvo
