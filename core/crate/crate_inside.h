// What a crate is made of inside. Only for crate*.cpp; everything here is used under its mutex.
//
// Invariants, upheld by every change:
//  1. A source that was heard has a hash, a row in `heard` and a row in `words`.
//  2. A source without a hash belongs to exactly one file that waits to be heard.
//  3. A source is missing when none of its files is there.
//  4. Every source has a facet, and the facet agrees with its row.
//  5. What a person said lies in `marks` by hash, whether or not the source is known here.
#pragma once

#include "base/guard.h"
#include "crate/crate.h"
#include "crate/database.h"
#include "crate/facet.h"

#include <unordered_map>
#include <unordered_set>

namespace tuvvo {

struct Crate::Inside {
  Inside(const std::filesystem::path& folder, const std::string& stem);

  Database database;
  std::filesystem::path folder, provenanceFile;
  bool unsavedMarks = false;
  bool readOnlyProvenance = false; ///< a newer version's: never written
  std::int64_t sweep = 0;          ///< number of the last look through the folders

  std::vector<Facet> facets;
  std::unordered_map<CrateId, std::size_t> placeOf; ///< in facets
  std::optional<BeatNow> reachBeat;                 ///< what the facets' reach is for
  bool namesRanked = false;

  // ---- crate.cpp; opening is in crate_open.cpp, refreshing in crate_refresh.cpp ----
  void makeTables();
  void bringUp(std::int64_t schema);
  /// Reads papers.json where it is not as this crate wrote it. @param fresh  the database is
  /// new
  void takeProvenance(Opened& opened, bool fresh);
  void loadFacets(CrateId only = 0);
  /// @param over  whether it wins against what is in the database
  void takeExport(const CrateExport& all, bool over);
  [[nodiscard]] std::optional<Analysis> analysisOf(CrateId id);
  [[nodiscard]] Marks marksOf(const std::string& hash);
  /// Sources by the hash of their sound, and of a file; 0 for none.
  [[nodiscard]] CrateId idOf(const std::string& hash);
  [[nodiscard]] CrateId idOfFile(std::int64_t file);
  void rankNames();
  /// Source, marks and what was heard together, without a sound.
  [[nodiscard]] Source sourceOf(CrateId id);
  /// Works out the columns, chords and words again from what was heard and said (invariants 1, 4).
  void refresh(CrateId id);
  /// Ties a file to a source that is known by its content. @returns whether it is known
  bool tieKnown(std::int64_t file, const std::string& hash);
  /// A source that has one file is called as that file is.
  void nameByFile(CrateId id);
  void drop(CrateId id);
  /// Drops a source that has no file, no marks and no use.
  void dropIfUnwanted(CrateId id);
  /// Every statement is prepared once.
  Statement& ask(const char* sql);
  /// Single values that the crate remembers about itself; empty where there is none.
  [[nodiscard]] std::string kept(const char* name);
  void keep(const char* name, const std::string& value);
  /// What was said and is not in the provenance yet: survives the end of the program.
  void setUnsaved(bool unsaved);
  [[nodiscard]] CrateExport gatherExport();
  /// Of the database itself and not of the parts that listening can fill again.
  void checkWhole();

private:
  void checkTables();
  /// The names of the folders a file is found by: up to the outermost of the crate's own.
  std::string folderWords(const std::filesystem::path& file);
  /// Of every source that was heard.
  void wordFoldersAgain();
  void refreshWords(CrateId id, const Source& source, const Marks& marks);
  void refreshChords(CrateId id, const Source& source);
  std::unordered_map<const char*, Statement> m_statements;
};

/// Runs work under the mutex and turns trouble into an Error.
template <class T> Result<T> Crate::guarded(const std::function<T()>& work) {
  const std::lock_guard lock(m_mutex);
  try {
    if constexpr (std::is_void_v<T>) {
      work();
      return {};
    } else {
      return work();
    }
  } catch (const DatabaseTrouble& trouble) {
    if (trouble.damaged) m_damaged = true;
    return Error{"The crate cannot be read or written (" + trouble.what + ")",
                 m_inside->folder.string(), trouble.remedy()};
  } catch (const std::bad_alloc&) {
    return noMemory("The crate", {});
  }
}

[[nodiscard]] std::string stemOf(const std::string& path);
[[nodiscard]] std::vector<std::uint8_t> packed(const std::string& text);
/// Bounded to 64 MB; empty for what cannot be unpacked.
[[nodiscard]] std::string unpacked(std::span<const std::uint8_t> bytes);

} // namespace tuvvo
