// The buses of a project as the engine needs them: values, worked out once for every edit.
#pragma once

#include "mix/ducker.h"
#include "model/project.h"

namespace tuvvo {

struct ProcessorPlan {
  Id id = 0;
  const ProcessorType* type = nullptr;
  bool on = true;
  std::vector<double> values; ///< by the type's parameters, each in its range
};

struct BusPlan {
  enum class Kind { Part, Row, Send, Master } kind = Kind::Master;
  Id which = 0;    ///< a part's id, a row, a send; names the bus from one plan to the next
  int parent = -1; ///< where it goes on to; always further on; −1: the output
  float gain = 1, pan = 0, width = 1;
  bool muted = false;
  bool closed = false;               ///< nothing of it is wanted (stems): it is not even played
  std::array<float, kSends> sends{}; ///< gains
  Id duckBy = 0;                     ///< a part
  Ducker::Plan duck;
  std::vector<ProcessorPlan> chain;
  bool operator<(const BusPlan& other) const {
    return std::pair(kind, which) < std::pair(other.kind, other.which);
  }
};

/// Parts, rows, sends and the master, in the order in which they are worked through.
struct GraphPlan {
  std::vector<BusPlan> buses{BusPlan{}}; ///< never empty: the master is the last

  /// The bus of a part; that of a row where there is no such part.
  [[nodiscard]] int busOf(Id part, Row row) const;
  [[nodiscard]] int find(BusPlan::Kind kind, Id which) const; ///< −1 where there is none
};

struct GraphOptions {
  Id onlyPart = 0; ///< not 0: every other part is closed
};

/// @returns what a project's buses are; processors of kinds that are not known are left out
[[nodiscard]] GraphPlan graphPlanOf(const Project& project, Hertz rate,
                                    const GraphOptions& options = {});

} // namespace tuvvo
