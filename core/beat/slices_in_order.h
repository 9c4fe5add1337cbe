// A source's slices laid into a pattern as they were: what lining up is heard by.
#pragma once

#include "model/project.h"

namespace tuvvo {

struct SlicesInOrder {
  bool countIn = false; ///< an empty bar in front, which a pickup before the first downbeat reaches
                        ///< into
};

/// What the pattern of a source's slices in order is called, by which it is known; one that was
/// renamed is the person's own.
[[nodiscard]] std::string inOrderName(const Source& source);

/// Puts every slice of a source where its shape puts it against the beat, the first downbeat on a
/// bar line, into a pattern of its own (inOrderName(), written anew when it is there already), as
/// many bars as it needs, up to the longest a pattern can be. Slices before the first downbeat are
/// left out where there is no count-in; nothing of the source or its cuts changes.
/// @param pattern  the pattern; 0 when there are no slices to lay
[[nodiscard]] Project withSlicesInOrder(Project project, Id source, const SlicesInOrder& how,
                                        Id* pattern);

} // namespace tuvvo
