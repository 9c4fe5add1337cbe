// Which projects were open, latest first; and which of them hold work that was not saved.
#pragma once

#include <QDateTime>
#include <QString>
#include <filesystem>
#include <vector>

namespace tuvvo {

/// Kept in recent.json beside the projects that have no name yet. Interface thread.
class RecentProjects {
public:
  RecentProjects();

  struct Entry {
    std::filesystem::path folder;
    QString name;
    QDateTime when;       ///< last changed
    bool unsaved = false; ///< there is an autosave in it
  };
  /// Those that are still there, latest first: the ones that were opened, and whatever lies where
  /// projects without a name are kept.
  [[nodiscard]] std::vector<Entry> list() const;
  /// Puts one at the top. @returns what went wrong; empty for nothing
  [[nodiscard]] QString note(const std::filesystem::path& folder);

  /// Where projects without a name are kept.
  [[nodiscard]] static std::filesystem::path home();
  /// Removes folders in home() that nobody has open and nothing was ever kept in.
  static void removeEmpty();

private:
  void read();
  std::filesystem::path m_file;
  std::vector<std::filesystem::path> m_folders;
  bool m_readable = true; ///< a file that cannot be read is not written over
};

} // namespace tuvvo
