#include "base/outputs.h"

#include <algorithm>
#include <sys/stat.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

/// In full, links of its folders followed, so that one file has one name.
fs::path inFull(const fs::path& path) {
  std::error_code code;
  const fs::path folder = fs::weakly_canonical(fs::absolute(path, code).parent_path(), code);
  return (code ? fs::absolute(path, code).parent_path() : folder) / path.filename();
}

bool isInside(const fs::path& path, const fs::path& folder) {
  return std::mismatch(folder.begin(), folder.end(), path.begin(), path.end()).first ==
         folder.end();
}

} // namespace

void Outputs::protect(const fs::path& path) {
  struct stat look {};
  if (::stat(path.c_str(), &look) != 0) return;
  if (S_ISDIR(look.st_mode)) {
    std::error_code code;
    m_folders.push_back(fs::canonical(path, code));
  } else {
    m_protected.emplace(look.st_dev, look.st_ino);
  }
}

Result<Replace> Outputs::claim(const fs::path& path) {
  const fs::path full = inFull(path);
  struct stat look {};
  const bool there = ::stat(full.c_str(), &look) == 0;
  if (there && S_ISDIR(look.st_mode))
    return Error{"This is a folder, not a file", path.string(), "Choose another name."};
  if (there && !S_ISREG(look.st_mode))
    return Error{"This is not a plain file", path.string(), "Choose another name."};
  const bool ours = m_claimed.contains(full.string());
  const bool source =
      there && (m_protected.contains({look.st_dev, look.st_ino}) ||
                std::any_of(m_folders.begin(), m_folders.end(),
                            [&](const fs::path& folder) { return isInside(full, folder); }));
  if (source)
    return Error{"This would write over a sound that the beat is made of", path.string(),
                 "Choose another name or another folder; nothing was changed."};
  if (ours)
    return Error{"Two files of one run would have this name", path.string(),
                 "Choose another name for one of them."};
  if (there && m_replace == Replace::No) return discError("Writing", path, EEXIST);
  m_claimed.insert(full.string());
  return m_replace;
}

} // namespace tuvvo
