// The crate's part of the bench.
#pragma once

#include <filesystem>

namespace tuvvo {

using Report = void (*)(const char* what, double figure, const char* unit, const char* owed,
                        bool met);

/// Fills a crate with 100 000 invented sources and searches it.
void benchCrate(Report report);

/// From an empty crate and a folder of a thousand files to the first one that fits, rendered for
/// the beat. @param data  the folder with the sounds that ship
void benchFirstFit(Report report, const std::filesystem::path& data);

} // namespace tuvvo
