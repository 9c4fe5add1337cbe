// The columns, chords and words by which a source is found, from what was heard and said.
#include "base/convert.h"
#include "crate/crate_inside.h"

#include "formats/json_read.h"
#include "formats/provenance_json.h"
#include "listen/chord_name.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {
constexpr int kFoldersAsWords = 3; ///< how many folders over a file are among its words

std::span<const std::uint8_t> bytesOf(const std::optional<Likeness>& likeness) {
  if (!likeness) return {};
  return {reinterpret_cast<const std::uint8_t*>(likeness->data()), sizeof(Likeness)};
}
} // namespace

Source Crate::Inside::sourceOf(CrateId id) {
  Source source;
  Statement& question = ask("SELECT name, hash, tagged FROM source WHERE id = ?1");
  if (!question.with(id).step()) return source;
  source.name = question.text(0);
  source.hash = question.text(1);
  const std::string tagged = question.text(2);
  question.reset();
  source.heard = analysisOf(id);
  const Marks marks = marksOf(source.hash);
  source.corrections = marks.corrections;
  source.provenance = marks.provenance;
  if (source.provenance == Provenance{}) try {
      if (!tagged.empty()) {
        const auto json = json_read::parse(tagged);
        json_read::Reading reading;
        json_read::Fields fields(json, reading);
        source.provenance = readProvenance(fields);
      }
    } catch (const json_read::Bad&) {
      // Tags that cannot be read are no provenance.
    }
  Statement& file = ask("SELECT path FROM file WHERE source = ?1 ORDER BY missing, id LIMIT 1");
  if (file.with(id).step()) source.origin = file.text(0);
  file.reset();
  return source;
}

void Crate::Inside::refreshChords(CrateId id, const Source& source) {
  ask("DELETE FROM chord WHERE source = ?1").with(id).run();
  const auto grid = gridOf(source);
  if (!source.heard) return;
  struct Held {
    ChordName chord;
    double seconds = 0;
  };
  std::vector<Held> longest;
  double run = 0;
  const auto& chords = source.heard->chords;
  for (std::size_t i = 0; i < chords.size(); ++i) {
    const bool goesOn = i > 0 && chords[i].name == chords[i - 1].name &&
                        (chords[i].start - chords[i - 1].end).value < 0.05;
    run = (goesOn ? run : 0) + (chords[i].end - chords[i].start).value;
    const auto chord = chordFromName(chords[i].name);
    if (!chord) continue;
    auto known = std::find_if(longest.begin(), longest.end(), [&](const Held& held) {
      return held.chord.root == chord->root && held.chord.kind == chord->kind;
    });
    if (known == longest.end()) known = longest.insert(longest.end(), {*chord, 0});
    known->seconds = std::max(known->seconds, run);
  }
  const double bar = grid ? 60 / grid->tempo.value * grid->meter : 0;
  for (const auto& held : longest)
    ask("INSERT INTO chord(source, root, minor, ending, bars) VALUES(?1, ?2, ?3, ?4, ?5)")
        .with(id, held.chord.root, held.chord.minor(), std::string(held.chord.kind->ending),
              bar > 0 ? held.seconds / bar : 0.0)
        .run();
}

std::string Crate::Inside::folderWords(const fs::path& file) {
  // The names of folders above the crate's own say nothing: everything would be found by them.
  std::string outermost;
  Statement& all =
      ask("SELECT MIN(path) FROM folder WHERE substr(?1, 1, length(path) + 1) = path || '/'");
  if (all.with(file.string()).step()) outermost = all.text(0);
  all.reset();
  std::string words;
  fs::path folder = file.parent_path();
  for (int up = 0; up < kFoldersAsWords && folder.has_filename(); ++up) {
    words += folder.filename().string() + ' ';
    if (folder == outermost) break;
    folder = folder.parent_path();
  }
  return words;
}

void Crate::Inside::wordFoldersAgain() {
  std::vector<std::pair<CrateId, std::string>> words;
  auto files = database.prepare("SELECT w.rowid, (SELECT path FROM file WHERE source = w.rowid "
                                "ORDER BY missing, id LIMIT 1) FROM words w");
  while (files.step()) words.emplace_back(files.integer(0), folderWords(files.text(1)));
  auto put = database.prepare("UPDATE words SET folder = ?2 WHERE rowid = ?1");
  for (const auto& [id, text] : words) put.with(id, text).run();
}

void Crate::Inside::refreshWords(CrateId id, const Source& source, const Marks& marks) {
  ask("DELETE FROM words WHERE rowid = ?1").with(id).run();
  ask("DELETE FROM tag WHERE source = ?1").with(id).run();
  std::string tags;
  for (const auto& tag : marks.tags) {
    tags += tag + ' ';
    ask("INSERT INTO tag(source, tag) VALUES(?1, ?2)").with(id, tag).run();
  }
  const Provenance& p = source.provenance;
  ask("INSERT INTO words(rowid, name, folder, tags, papers) VALUES(?1, ?2, ?3, ?4, ?5)")
      .with(id, source.name, folderWords(source.origin), tags,
            p.title + ' ' + p.maker + ' ' + p.from + ' ' + p.when + ' ' + p.note)
      .run();
}

void Crate::Inside::refresh(CrateId id) {
  const Source source = sourceOf(id);
  const Marks marks = source.hash.empty() ? Marks{} : marksOf(source.hash);
  if (source.heard) {
    const Analysis& h = *source.heard;
    const auto grid = gridOf(source);
    const auto key = keyOf(source);
    int bars = 0;
    if (grid) {
      const double length = h.duration.value * grid->tempo.value / 60 / grid->meter;
      if (h.loop || std::abs(length - std::round(length)) < 0.02)
        bars = std::max(1, toNearest<int>(length));
    }
    const auto kind = kindOf(source);
    const auto likeness = likenessOf(h);
    ask("UPDATE source SET kind = ?2, kindSure = ?3, seconds = ?4, tempo = ?5, steady = ?6, "
        "exact = ?7, bars = ?8, key = ?9, keySure = ?10, tuning = ?11, lufs = ?12, hits = ?13, "
        "stars = ?14, cleared = ?15, parts = ?16, likeness = ?17 WHERE id = ?1")
        .with(id, kind ? std::optional(int(*kind)) : std::nullopt,
              source.corrections.kind ? 1.0 : h.kind.confidence, h.duration.value,
              grid ? std::optional(grid->tempo.value) : std::nullopt,
              h.tempo.has_value() && h.tempo->steady, h.loop && h.loop->exact, bars,
              key ? std::optional(key->tonic + (key->minor ? 12 : 0)) : std::nullopt,
              source.corrections.key ? 1.0
              : h.key                ? h.key->confidence
                                     : 0.0,
              h.key ? h.key->tuning.value : 0.0,
              std::isfinite(h.loudness.integratedLufs) ? h.loudness.integratedLufs : -200.0,
              std::int64_t(h.onsets.size()), marks.stars, cleared(source.provenance),
              std::int64_t(partsOf(h)), bytesOf(likeness))
        .run();
    refreshChords(id, source);
  }
  refreshWords(id, source, marks);
  loadFacets(id);
}

void Crate::Inside::nameByFile(CrateId id) {
  Statement& files = ask("SELECT MIN(path), COUNT(*) FROM file WHERE source = ?1 AND missing = 0");
  const bool only = files.with(id).step() && files.integer(1) == 1;
  const std::string path = only ? files.text(0) : std::string();
  files.reset();
  if (only) ask("UPDATE source SET name = ?2 WHERE id = ?1").with(id, stemOf(path)).run();
  refresh(id);
}

} // namespace tuvvo
