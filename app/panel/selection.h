// What is chosen in the window: values, and pure functions from one choice to the next.
#pragma once

#include "model/project.h"

#include <set>

namespace tuvvo {

struct Selection {
  Id source = 0, cut = 0, key = 0, pattern = 0, section = 0;
  int page = 0;          ///< of the slices' row of the deck
  std::set<Id> alsoCuts; ///< of the same source, chosen together with `cut`
  bool operator==(const Selection&) const = default;
};

// Each returns the selection after one act. Names that the project does not have are kept as they
// are; keptAlive() lets go of them.

[[nodiscard]] Selection withSourceChosen(Selection selection, Id source);
/// A key with what it plays.
[[nodiscard]] Selection withKeyChosen(Selection selection, const Project& project, Id key);
/// A slice, and the key that it lies on.
[[nodiscard]] Selection withCutChosen(Selection selection, const Project& project, Id source,
                                      Id cut);
/// Chooses one more slice of the source together with the chosen one, or lets go of it.
[[nodiscard]] Selection withCutToggled(Selection selection, const Project& project, Id cut);
/// All slices from the chosen one to another.
[[nodiscard]] Selection withCutsUpTo(Selection selection, const Project& project, Id cut);
[[nodiscard]] Selection withAllCuts(Selection selection, const Project& project);
[[nodiscard]] Selection withPatternChosen(Selection selection, Id pattern);
/// A section, and the pattern that it plays.
[[nodiscard]] Selection withSectionChosen(Selection selection, const Project& project, Id section);
/// @param page  is brought into the range of the deck's pages
[[nodiscard]] Selection withPage(Selection selection, const Project& project, int page);

/// What of a selection the project still has; where something is gone, the first of its kind.
[[nodiscard]] Selection keptAlive(Selection selection, const Project& project);
/// The keys of the chosen slices, in the order of the deck.
[[nodiscard]] std::vector<Id> chosenKeys(const Selection& selection, const Project& project);

} // namespace tuvvo
