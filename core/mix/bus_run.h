// A bus while it runs.
#pragma once

#include "mix/chain_run.h"
#include "mix/moved_value.h"

namespace tuvvo {

/// Takes what is played, ducks it, works it through its chain, and gives it on with its level, pan
/// and width. What nothing comes into costs nothing. Level, pan, width, mute and sends are moved
/// in about 10 ms. Made outside the audio thread; else real time.
class BusRun {
public:
  /// @param plan  must outlive it
  /// @param out   to its parent; null where nothing has to wait
  /// @param sends to the sends, likewise
  BusRun(const BusPlan& plan, const ChainRun::List& chain, int inserts, DelayLine* out,
         const std::array<DelayLine*, kSends>& sends);

  [[nodiscard]] const BusPlan& plan() const { return m_plan; }
  /// Goes on as the same bus of another graph stood.
  void takeOver(const BusRun& before);
  /// Where its processors and levels are to go. Called once it is in use.
  void begin(bool atOnce);

  /// What is to be added to in this quantum: both channels.
  struct Input {
    float *left, *right;
  };
  [[nodiscard]] Input input();
  /// Something of it plays on unheard, and would be heard in its middle.
  void pass() { m_passed = true; }
  /// The quantum's end. @returns whether there is anything in output() and toSend()
  bool finish(std::int64_t quantum);
  [[nodiscard]] Input output() { return {m_left.data(), m_right.data()}; }
  /// Adds what goes to a send; nothing where nothing is sent.
  void addToSend(std::size_t send, const Input& to);
  [[nodiscard]] bool sendsTo(std::size_t send) const {
    return m_sends[send].now() > 0 || m_sends[send].target() > 0;
  }
  /// Through what makes it wait for slower ones.
  void delayOutput();

  [[nodiscard]] Ducker& ducker() { return m_ducker; }
  [[nodiscard]] bool leaving() const { return m_chain.leaving(); }
  /// The gain that it stands at, without pan; 0 while it is muted.
  [[nodiscard]] float gain() const { return float(m_gain.now()); }
  [[nodiscard]] bool silent() const { return m_gain.now() <= 0 && m_gain.target() <= 0; }

private:
  using Channel = std::array<float, kQuantum>;
  void fade();
  void stayQuiet();

  const BusPlan& m_plan;
  ChainRun::List m_wanted;
  int m_inserts;
  DelayLine* m_out;
  std::array<DelayLine*, kSends> m_sendDelays;
  ChainRun m_chain;
  Ducker m_ducker;
  MovedValue m_gain{1, 1e-6}, m_pan{0, 1e-4}, m_width{1, 1e-4};
  std::array<MovedValue, kSends> m_sends{};
  std::array<float, 4> m_matrix{1, 0, 0, 1}; ///< left and right from left and right, as it stood
  bool m_fed = false, m_resting = true;
  bool m_passed = false, m_plays = false; ///< in this quantum, and in the one before
  int m_quiet = 0;                        ///< frames since anything came in
  Channel m_left{}, m_right{};
};

} // namespace tuvvo
