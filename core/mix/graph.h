// The graph while it runs: every bus, and what makes the fast ones wait for the slow ones.
#pragma once

#include "mix/bus_run.h"

#include <map>

namespace tuvvo {

/// Works a quantum through all buses. Made by a GraphMaker; else real time.
class Graph {
public:
  [[nodiscard]] const GraphPlan& plan() const { return *m_plan; }
  [[nodiscard]] BusRun& bus(int index) { return m_buses[std::size_t(index)]; }
  [[nodiscard]] int count() const { return int(m_buses.size()); }
  /// The bus that is called the same as one of another plan; else where that one went on to.
  [[nodiscard]] int same(const GraphPlan& other, int index) const;
  /// A part is struck: those that duck by it step back.
  void struck(Id part, std::int64_t quantum, int offset);

  /// Comes into use. @param before  what was in use; null at first
  void begin(const Graph* before);
  /// The quantum's end: its output, both channels of kQuantum frames.
  void finish(std::int64_t quantum, float* left, float* right);
  /// Something of an older graph still sounds in this one: that one must live.
  [[nodiscard]] bool leaving() const;
  /// Frames by which its output is late.
  [[nodiscard]] int latency() const { return m_latency; }

private:
  friend class GraphMaker;
  const GraphPlan* m_plan = nullptr;
  std::vector<BusRun> m_buses;
  std::vector<int> m_byName;                 ///< places of buses in the order of their names
  std::vector<std::pair<Id, int>> m_duckers; ///< by which part, and which bus; in order
  std::vector<std::shared_ptr<Insert>> m_inserts;
  struct Waiting {
    std::shared_ptr<DelayLine> line;
    int frames = 0;
  };
  std::vector<Waiting> m_waiting;
  int m_latency = 0;
};

/// Makes graphs one after the other: a processor that is called the same in the same bus of the
/// next one is the same. For one thread, outside the audio thread.
class GraphMaker {
public:
  explicit GraphMaker(Hertz rate) : m_rate(rate) {}
  /// @param plan  must outlive the graph
  [[nodiscard]] std::unique_ptr<Graph> make(const GraphPlan& plan);

private:
  [[nodiscard]] InsertPtr insertFor(const BusPlan& bus, const ProcessorPlan& plan);
  [[nodiscard]] DelayLine* waitFor(Graph& graph, std::uint64_t edge, int frames);

  Hertz m_rate;
  bool m_first = true;
  using Name = std::tuple<BusPlan::Kind, Id, Id>; ///< of a processor in a bus
  std::map<Name, std::weak_ptr<Insert>> m_inserts;
  std::map<std::uint64_t, std::weak_ptr<DelayLine>> m_delays; ///< by edge
  bool m_wasLate = false;
};

} // namespace tuvvo
