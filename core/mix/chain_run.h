// A bus's chain while it runs.
#pragma once

#include "mix/delay_line.h"
#include "mix/graph_plan.h"

namespace tuvvo {

/// A processor with what has to go along with it. It is shared by the graphs of one score after the
/// other, so that what it remembers lives on; made and freed outside the audio thread.
struct Insert {
  Insert(Id name, const ProcessorType& kind, Hertz rate)
      : id(name), type(kind), processor(kind.make(rate)), dry(processor->latency()) {}
  Id id;
  const ProcessorType& type;
  std::unique_ptr<Processor> processor;
  DelayLine dry; ///< what passes by it comes as late as what goes through

  /// Forgets what came by, and is as late as it will be or not late at all.
  void forget(bool late) {
    processor->reset();
    dry.setDelay(late ? processor->latency() : 0);
    dry.reset();
  }
};
using InsertPtr = std::shared_ptr<Insert>;

/// Works through inserts in their order. One that comes, goes, is switched or changes its place is
/// crossfaded with what passes by it in 11 ms, and so is what waits for it, where it is late; one
/// that changes its place leaves the old one first.
/// Real time.
class ChainRun {
public:
  struct Wanted {
    Insert* insert = nullptr;
    bool on = true;
  };
  using List = std::array<Wanted, kMostProcessors>;

  /// What the chain is to be. Values are for the caller to set.
  /// @param atOnce  without a crossfade: nothing sounds yet
  void want(const List& wanted, int count, bool atOnce);
  /// Goes on as another chain of the same bus stood.
  void takeOver(const ChainRun& before);
  /// One quantum, in place.
  void process(float* left, float* right);
  /// Nothing has come by for long: all forget, and what was to leave has left.
  void rest();

  [[nodiscard]] bool empty() const { return m_count == 0 && m_wantedCount == 0; }
  /// Something that is not wanted any more still sounds.
  [[nodiscard]] bool leaving() const;
  /// Frames by which the chain is late, whatever is on.
  [[nodiscard]] int latency() const;
  /// Frames that it may sound on for.
  [[nodiscard]] int tail() const;

private:
  struct Entry {
    Insert* insert = nullptr;
    float wet = 0; ///< its share, at the quantum's start
    bool stays = false, on = false;
    int fed = 0; ///< frames that its processor has taken; it is heard when it is no longer empty
  };
  void arrange();
  void remove(int place);
  void run(Entry& entry, float* left, float* right);

  std::array<Entry, 2 * kMostProcessors> m_entries;
  int m_count = 0;
  List m_wanted;
  int m_wantedCount = 0;
};

} // namespace tuvvo
