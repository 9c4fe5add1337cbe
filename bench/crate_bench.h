// The crate's part of the bench.
#pragma once

namespace tuvvo {

using Report = void (*)(const char* what, double figure, const char* unit, const char* owed,
                        bool met);

/// Fills a crate with 100 000 invented sources and searches it.
void benchCrate(Report report);

} // namespace tuvvo
