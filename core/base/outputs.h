// What one run may write: never over a source, never twice over one name.
#pragma once

#include "base/files.h"

#include <set>
#include <utility>
#include <vector>

namespace tuvvo {

/// Handed to everything that writes files for other programs. One of it belongs to one run (a
/// print with its stems, the slices of a source) and is used by one thread at a time.
class Outputs {
public:
  /// @param replace  whether the person agreed that files that are there are written over
  explicit Outputs(Replace replace = Replace::No) : m_replace(replace) {}

  /// A source, or everything in a folder: nothing of this run writes over it, whatever was agreed.
  void protect(const std::filesystem::path& path);

  /// Takes a name for one file.
  /// @returns whether it may take the place of what is there, for writeFileAtomically() and the
  ///          like; an Error where the name is a source's or was taken in this run, and (with
  ///          Error::replaces) where a file is there that nobody agreed to lose
  [[nodiscard]] Result<Replace> claim(const std::filesystem::path& path);

private:
  using Place = std::pair<std::uint64_t, std::uint64_t>; ///< device and number of a file

  Replace m_replace;
  std::set<Place> m_protected;
  std::vector<std::filesystem::path> m_folders;
  std::set<std::string> m_claimed; ///< names, in full
};

} // namespace tuvvo
