// Opening a crate: a new one, a good one, a damaged one, one of a newer version.
#include "crate/crate_inside.h"

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

std::string idleName(const fs::path& folder, const std::string& stem) {
  std::error_code code;
  for (int n = 1;; ++n) {
    const std::string name = stem + ".damaged-" + std::to_string(n) + ".db";
    if (!fs::exists(folder / name, code)) return name;
  }
}

void removeLog(const fs::path& database) {
  std::error_code code;
  for (const char* end : {"-wal", "-shm"}) fs::remove(database.string() + end, code);
}

/// The version a database was made by; 0 for none yet, −1 where that cannot be read.
int versionOf(const fs::path& path) {
  std::error_code code;
  if (!fs::exists(path, code)) return 0;
  try {
    Database database(path);
    auto question = database.prepare("PRAGMA user_version");
    return question.step() ? int(question.integer(0)) : -1;
  } catch (const DatabaseTrouble& trouble) {
    if (trouble.damaged) return -1;
    throw;
  }
}

} // namespace

Result<Crate::Opened> Crate::open(const fs::path& folder) {
  std::error_code code;
  fs::create_directories(folder, code);
  if (code)
    return Error{"The crate's folder cannot be made (" + code.message() + ")", folder.string(),
                 "Check that it may be written to."};
  Opened opened;
  std::string stem = "crate";
  try {
    int version = versionOf(folder / (stem + ".db"));
    if (version > kSchema) {
      opened.warnings.push_back("Your crate was used by a newer version of Tuvvo. It is left as it "
                                "is, and this version keeps one of its own beside it.");
      stem = "crate-" + std::to_string(kSchema);
      version = versionOf(folder / (stem + ".db"));
    }
    for (int attempt = 0; attempt < 2; ++attempt) {
      const bool fresh = version <= 0;
      if (version < 0) {
        const std::string aside = idleName(folder, stem);
        fs::rename(folder / (stem + ".db"), folder / aside, code);
        removeLog(folder / (stem + ".db"));
        opened.warnings.push_back("The crate was damaged. It is built again from your files, with "
                                  "everything you wrote; the damaged one is kept as " +
                                  aside + ".");
        opened.rebuilt = true;
      }
      try {
        auto inside = std::make_unique<Inside>(folder, stem);
        inside->makeTables();
        if (fresh) {
          auto kept = readExport(inside->papersFile);
          if (kept) {
            inside->takeExport(kept->all);
            if (kept->damaged > 0)
              opened.warnings.push_back(std::to_string(kept->damaged) +
                                        " entries of the crate's papers could not be read.");
            opened.rebuilt = opened.rebuilt || !kept->all.folders.empty();
          } else {
            opened.warnings.push_back(kept.error().text());
          }
        } else {
          inside->checkWhole();
        }
        inside->loadFacets();
        opened.crate.reset(new Crate(std::move(inside)));
        return opened;
      } catch (const DatabaseTrouble& trouble) {
        if (!trouble.damaged || attempt > 0) throw;
        version = -1; // once more, from the export
      }
    }
  } catch (const DatabaseTrouble& trouble) {
    return Error{"The crate cannot be opened (" + trouble.what + ")", folder.string(),
                 "Check that there is room on the disc and that it may be written to."};
  }
  return Error{"The crate cannot be opened", folder.string(), "Check the disc."};
}

} // namespace tuvvo
