#include "mix/graph.h"

#include <algorithm>

namespace tuvvo {

namespace {

/// A bus's way to its parent, or to a send.
std::uint64_t edgeOf(const BusPlan& bus, std::size_t way) {
  return (std::uint64_t(bus.which) << 8) | (std::uint64_t(bus.kind) << 4) | way;
}
constexpr std::size_t kToParent = kSends;

} // namespace

int Graph::same(const GraphPlan& other, int index) const {
  while (index >= 0) {
    const BusPlan& wanted = other.buses[std::size_t(index)];
    const auto found =
        std::lower_bound(m_byName.begin(), m_byName.end(), wanted, [&](int i, const BusPlan& bus) {
          return m_plan->buses[std::size_t(i)] < bus;
        });
    if (found != m_byName.end() && !(wanted < m_plan->buses[std::size_t(*found)])) return *found;
    index = wanted.parent;
  }
  return count() - 1;
}

void Graph::struck(Id part, std::int64_t quantum, int offset) {
  if (part == 0) return;
  const auto first = std::lower_bound(m_duckers.begin(), m_duckers.end(), std::pair(part, -1));
  for (auto it = first; it != m_duckers.end() && it->first == part; ++it)
    m_buses[std::size_t(it->second)].ducker().strike(quantum, offset);
}

void Graph::begin(const Graph* before) {
  for (auto& wait : m_waiting) wait.line->setDelay(wait.frames);
  for (auto& bus : m_buses) {
    const BusRun* last = nullptr;
    if (before) {
      const auto found = std::lower_bound(before->m_byName.begin(), before->m_byName.end(),
                                          bus.plan(), [&](int i, const BusPlan& wanted) {
                                            return before->m_plan->buses[std::size_t(i)] < wanted;
                                          });
      if (found != before->m_byName.end() &&
          !(bus.plan() < before->m_plan->buses[std::size_t(*found)]))
        last = &before->m_buses[std::size_t(*found)];
    }
    if (last) bus.takeOver(*last);
    bus.begin(!last);
  }
}

bool Graph::leaving() const {
  return std::any_of(m_buses.begin(), m_buses.end(),
                     [](const BusRun& bus) { return bus.leaving(); });
}

void Graph::finish(std::int64_t quantum, float* left, float* right) {
  const auto add = [](const BusRun::Input& from, const BusRun::Input& to) {
    for (int i = 0; i < kQuantum; ++i) {
      to.left[i] += from.left[i];
      to.right[i] += from.right[i];
    }
  };
  const int sends = count() - 1 - int(kSends); // before the master
  for (auto& bus : m_buses) {
    if (!bus.finish(quantum)) continue;
    for (std::size_t send = 0; send < kSends; ++send)
      if (bus.sendsTo(send)) bus.addToSend(send, this->bus(sends + int(send)).input());
    bus.delayOutput();
    const auto out = bus.output();
    if (bus.plan().parent >= 0)
      add(out, this->bus(bus.plan().parent).input());
    else
      add(out, {left, right});
  }
}

// ---- making -------------------------------------------------------------------------------------

InsertPtr GraphMaker::insertFor(const BusPlan& bus, const ProcessorPlan& plan) {
  auto& known = m_inserts[{bus.kind, bus.which, plan.id}];
  if (auto there = known.lock(); there && &there->type == plan.type) return there;
  auto made = std::make_shared<Insert>(plan.id, *plan.type, m_rate);
  known = made;
  return made;
}

DelayLine* GraphMaker::waitFor(Graph& graph, std::uint64_t edge, int frames) {
  auto& known = m_delays[edge];
  auto line = known.lock();
  if (!line && frames <= 0) {
    m_delays.erase(edge);
    return nullptr;
  }
  if (!line || line->most() < frames) {
    line = std::make_shared<DelayLine>(std::max(frames, 4096)); // room to change without a new one
    if (m_first) {
      line->setDelay(frames);
      line->reset();
    }
    known = line;
  }
  graph.m_waiting.push_back({line, frames});
  return line.get();
}

std::unique_ptr<Graph> GraphMaker::make(const GraphPlan& plan) {
  auto graph = std::make_unique<Graph>();
  graph->m_plan = &plan;
  const auto& buses = plan.buses;
  const int count = int(buses.size()), sends = count - 1 - int(kSends);
  std::vector<ChainRun::List> chains(buses.size());
  std::vector<int> own(buses.size()), late(buses.size()); // of a chain; of what comes into a bus
  std::erase_if(m_inserts, [](const auto& known) { return known.second.expired(); });
  for (std::size_t i = 0; i < buses.size(); ++i)
    for (std::size_t p = 0; p < buses[i].chain.size(); ++p) {
      const InsertPtr insert = insertFor(buses[i], buses[i].chain[p]);
      own[i] += insert->processor->latency();
      chains[i][p] = {insert.get(), buses[i].chain[p].on};
      graph->m_inserts.push_back(insert);
    }
  // Buses go on only to later ones, so one pass says how late everything comes in.
  const auto meet = [&](int from, int to) {
    late[std::size_t(to)] =
        std::max(late[std::size_t(to)], late[std::size_t(from)] + own[std::size_t(from)]);
  };
  const bool anyLate = std::any_of(own.begin(), own.end(), [](int frames) { return frames > 0; });
  if (!anyLate && !m_wasLate) m_delays.clear(); // all that is left stands at no delay
  m_wasLate = anyLate;
  for (int i = 0; i < count; ++i) {
    const BusPlan& bus = buses[std::size_t(i)];
    for (std::size_t send = 0; send < kSends; ++send)
      if (bus.kind == BusPlan::Kind::Part || bus.kind == BusPlan::Kind::Row)
        meet(i, sends + int(send));
    if (bus.parent >= 0) meet(i, bus.parent);
  }
  graph->m_latency = count > 0 ? late.back() + own.back() : 0;
  graph->m_buses.reserve(buses.size());
  for (int i = 0; i < count; ++i) {
    const BusPlan& bus = buses[std::size_t(i)];
    const auto waitUntil = [&](std::size_t way, int to) {
      const int frames = late[std::size_t(to)] - late[std::size_t(i)] - own[std::size_t(i)];
      return waitFor(*graph, edgeOf(bus, way), frames);
    };
    std::array<DelayLine*, kSends> toSends{};
    DelayLine* out = nullptr;
    if (anyLate || !m_delays.empty()) {
      for (std::size_t send = 0; send < kSends; ++send)
        if (bus.sends[send] > 0) toSends[send] = waitUntil(send, sends + int(send));
      if (bus.parent >= 0) out = waitUntil(kToParent, bus.parent);
    }
    graph->m_buses.emplace_back(bus, chains[std::size_t(i)], int(bus.chain.size()), out, toSends);
    if (bus.duckBy != 0) graph->m_duckers.emplace_back(bus.duckBy, i);
    graph->m_byName.push_back(i);
  }
  std::sort(graph->m_duckers.begin(), graph->m_duckers.end());
  std::sort(graph->m_byName.begin(), graph->m_byName.end(),
            [&](int a, int b) { return buses[std::size_t(a)] < buses[std::size_t(b)]; });
  m_first = false;
  return graph;
}

} // namespace tuvvo
