// The crate: every source that a person owns, what was heard in it and what was said of it.
#pragma once

#include "crate/marks.h"
#include "crate/query.h"
#include "cut/fit.h"
#include "listen/analyse.h"

#include <atomic>
#include <functional>
#include <memory>
#include <mutex>

namespace tuvvo {

using CrateId = std::int64_t; ///< names a source inside one crate; 0 is nothing

/// One line of the crate's list. Figures are as corrected.
struct CrateRow {
  CrateId id = 0;
  std::string hash; ///< empty until it was heard
  std::string name, path;
  std::optional<SoundKind> kind;
  double kindConfidence = 0;
  Seconds duration{0};
  std::optional<Bpm> tempo;
  bool steady = true, exact = false;
  int bars = 0; ///< a loop's; 0 for no loop
  std::optional<KeyName> key;
  double keyConfidence = 0;
  Cents tuning{0};
  double lufs = 0;
  int hits = 0;
  int stars = 0;
  bool heard = false, missing = false, cleared = false, used = false;
  int copies = 0; ///< files with this sound that are there
};

/// What is known of a row, put to a beat.
[[nodiscard]] FitQuestion fitQuestion(const CrateRow& row, const BeatNow& beat);

enum class CrateOrder { Reach, Name, Newest, Tempo, Length, Stars };

struct CrateFound {
  std::vector<CrateId> ids; ///< in the order asked for
  int total = 0;            ///< sources in the crate
};

/// What a file was when it was looked at.
struct FileLook {
  std::string path;
  std::int64_t bytes = 0, time = 0; ///< time in ns since the clock's own start
};

/// A SQLite file with full-text search, in write-ahead mode, and beside it papers.json: marks,
/// folders and searches in plain words, from which a damaged crate is built again.
///
/// Every function may be called from any thread; none blocks for longer than one small change.
/// Errors of the database come back as Error; after one that says the file is damaged, damaged() is
/// true and the crate should be opened again.
class Crate {
public:
  /// 1: marks with papers instead of provenance; 2: folders above the crate's own were words; 3:
  /// nothing was known of what is in the parts.
  static constexpr int kSchema = 4;

  struct Opened {
    std::unique_ptr<Crate> crate;
    std::vector<std::string> warnings;
    bool rebuilt = false; ///< from the export: the folders have to be scanned again
  };
  /// Opens or makes the crate in a folder. A damaged one is set aside under another name; one of a
  /// newer version is left alone and another is kept beside it.
  static Result<Opened> open(const std::filesystem::path& folder);
  ~Crate();
  Crate(const Crate&) = delete;
  Crate& operator=(const Crate&) = delete;
  [[nodiscard]] bool damaged() const { return m_damaged.load(); }
  /// Counts every change; for views that wonder whether to look again.
  [[nodiscard]] std::uint64_t changes() const { return m_changes.load(); }

  // ---- asking (crate_find.cpp) ----
  /// Under 50 ms among 100 000 sources. What is like another source comes nearest first, whatever
  /// order is asked for.
  Result<CrateFound> find(const Query& query, CrateOrder order, const BeatNow& beat);
  Result<std::optional<CrateRow>> row(CrateId id);
  /// Cost of the best way to bring it to the beat, as planFit() reckons; infinity where neither
  /// tempo nor key is known.
  [[nodiscard]] double reachOf(CrateId id, const BeatNow& beat);
  Result<CrateId> idOf(const std::string& hash);
  /// The whole source, without its sound; a name, a path and the provenance where it was not heard
  /// yet.
  struct Item {
    Source source;
    std::vector<std::uint8_t> picture;
    Marks marks;
    std::vector<std::string> paths;  ///< files that are there, then missing ones
    std::vector<std::string> usedIn; ///< names of beats
  };
  Result<std::optional<Item>> item(CrateId id);

  // ---- what a person says (crate_marks.cpp) ----
  Result<Marks> marksOf(const std::string& hash);
  Result<void> setMarks(const std::string& hash, const Marks& marks);
  Result<std::vector<std::pair<std::string, std::string>>> searches(); ///< name, words
  /// Empty words forget it.
  Result<void> keepSearch(const std::string& name, const std::string& words);
  Result<std::vector<std::string>> folders();
  Result<void> addFolder(const std::string& folder);
  /// Its sources stay as missing until forgotten.
  Result<void> removeFolder(const std::string& folder);
  /// Sources of a beat, by hash; replaces what was known of that beat.
  Result<void> setUses(const std::string& project, const std::string& name,
                       const std::vector<std::string>& hashes);
  /// Writes papers.json if anything was said since the last time.
  Result<void> writeProvenance();

  // ---- files come and go (crate_files.cpp); for the scanner ----
  struct Waiting {
    std::int64_t file = 0;
    FileLook look;
  };
  /// Notes files that were seen. Those that are new or changed wait to be heard.
  /// @returns how many of them were known and unchanged
  Result<int> sawFiles(std::span<const FileLook> files);
  /// Files under a folder that were not among those seen since the mark was taken are missing.
  Result<std::int64_t> beginSweep();
  Result<void> endSweep(const std::string& folder, std::int64_t sweep);
  Result<std::vector<Waiting>> waiting();
  /// Is there a heard file of this size? Only then can the content be known already.
  Result<bool> sizeKnown(std::int64_t bytes);
  /// Known already under this content? Then the file is tied to it and need not be heard.
  Result<bool> tieKnown(std::int64_t file, const std::string& hash);
  Result<void> storeHeard(std::int64_t file, const HeardFile& heard, const Provenance& tags);
  Result<void> storeUnreadable(std::int64_t file, const std::string& why);
  struct Unreadable {
    int count = 0;
    std::vector<std::pair<std::string, std::string>> some; ///< path, why
  };
  /// @param most  how many of them are named
  Result<Unreadable> unreadable(int most = 1000);
  /// Forgets a source and its files in the list; nothing on disc is touched.
  Result<void> forget(CrateId id);

private:
  struct Inside;
  explicit Crate(std::unique_ptr<Inside> inside);
  template <class T> Result<T> guarded(const std::function<T()>& work);

  std::unique_ptr<Inside> m_inside;
  std::mutex m_mutex;
  std::atomic<bool> m_damaged{false};
  std::atomic<std::uint64_t> m_changes{0};
};

} // namespace tuvvo
