// Opening a crate: a new one, a good one, a damaged one, one of a newer version.
#include "base/hash.h"
#include "base/new_file.h"
#include "crate/crate_inside.h"

#include <ctime>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr std::uint64_t kMostProvenanceBytes = 512u << 20;

std::string idleName(const fs::path& folder, const std::string& stem) {
  std::error_code code;
  for (int n = 1;; ++n) {
    std::string name = stem + ".damaged-" + std::to_string(n) + ".db";
    if (!fs::exists(folder / name, code)) return name;
  }
}

/// Keeps a copy of a file beside it under the day and time.
/// @returns the copy's name; empty where it could not be made
std::string copyAside(const fs::path& path, const std::string& bytes) {
  const std::time_t now = std::time(nullptr);
  std::tm local{};
  localtime_r(&now, &local);
  char when[40];
  std::strftime(when, sizeof when, " kept %Y-%m-%d %H.%M.%S", &local);
  for (int n = 1; n < 1000; ++n) {
    const fs::path aside = path.parent_path() / (path.stem().string() + when +
                                                 (n > 1 ? " " + std::to_string(n) : "") + ".json");
    const auto written = writeFileAtomically(aside, bytes, Replace::No);
    if (written) return aside.filename().string();
    if (!written.error().replaces) return {};
  }
  return {};
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

/// The provenance file is what a crate is built again from; so nothing that could not be read whole
/// is ever written over.
void Crate::Inside::takeProvenance(Opened& opened, bool fresh) {
  std::error_code code;
  if (!fs::exists(provenanceFile, code)) {
    // Somebody took them away: they are written again from what the database knows.
    if (!fresh) setUnsaved(true);
    return;
  }
  const auto say = [&](const std::string& what) { opened.warnings.push_back(what); };
  const auto bytes = readFile(provenanceFile, kMostProvenanceBytes);
  if (!bytes) {
    readOnlyProvenance = true;
    return say(bytes.error().text() +
               " They are left as they are, and nothing is written to them.");
  }
  const std::string hash = contentHash(bytes->data(), bytes->size()), ours = kept("papersHash");
  if (!fresh && hash == ours) return;
  const auto read = exportFromText(*bytes, provenanceFile.string());
  if (!read) {
    const std::string aside = copyAside(provenanceFile, *bytes);
    readOnlyProvenance = aside.empty();
    setUnsaved(true);
    return say(read.error().text() + (aside.empty()
                                          ? " They are left as they are."
                                          : " The file as it was is kept as \"" + aside + "\"."));
  }
  // What somebody else wrote since wins against the database; where nobody knows, the database.
  takeExport(read->all, fresh || !ours.empty());
  opened.rebuilt = opened.rebuilt || !read->all.folders.empty();
  if (read->schema > kProvenanceSchema) {
    readOnlyProvenance = true;
    return say(
        "What is recorded of the crate's sounds was written by a newer version of Tuvvo. It is "
        "read "
        "as far as it is known, and left as it is; what you say of sounds is kept in the crate.");
  }
  keep("papersHash", hash);
  if (read->notKnown.empty()) return;
  const std::string aside = copyAside(provenanceFile, *bytes);
  readOnlyProvenance = aside.empty();
  say("Some of what is recorded of the crate's sounds is not known to this version, and is kept "
      "as it is: " +
      read->notKnown + "." + (aside.empty() ? "" : " A copy is kept as \"" + aside + "\"."));
}

Result<Crate::Opened> Crate::open(const fs::path& folder) {
  std::error_code code;
  if (auto made = makeFolder(folder); !made) return made.error();
  removeLeftovers(folder);
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
        if (!fresh) inside->checkWhole();
        inside->loadFacets();
        inside->unsavedMarks = !inside->kept("unsaved").empty();
        inside->takeProvenance(opened, fresh);
        opened.crate.reset(new Crate(std::move(inside)));
        return opened;
      } catch (const DatabaseTrouble& trouble) {
        if (!trouble.damaged || attempt > 0) throw;
        version = -1; // once more, from the export
      }
    }
  } catch (const DatabaseTrouble& trouble) {
    return Error{"The crate cannot be opened (" + trouble.what + ")", folder.string(),
                 trouble.remedy()};
  } catch (const std::bad_alloc&) {
    return noMemory("The crate", {});
  }
  return Error{"The crate cannot be opened", folder.string(), "Check the disc."};
}

} // namespace tuvvo
