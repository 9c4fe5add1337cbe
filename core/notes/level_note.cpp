#include "notes/level_note.h"

#include "model/edits.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr std::size_t kEnough = 3;                 ///< slices that have a middle
constexpr double kDrumOver = 10;                   ///< LU
constexpr double kTonesApart = 8;                  ///< LU
constexpr double kRestUnder = 20;                  ///< LU
constexpr double kBeforeS = 0.012, kAfterS = 0.06; ///< of a cut's start: where its hit may be

struct Found {
  finding::LevelsApart words;
  double beyond = 0; ///< LU over what is worth a word
  std::vector<Id> keys;
  LevelMatch match;
};

/// One drum that stands out over the others of its job.
std::optional<Found> drumOver(const Project& project, std::vector<SliceLevel> levels) {
  const std::size_t middle = levels.size() / 2;
  const SliceLevel &loudest = levels.back(), &usual = levels[middle];
  const double over = loudest.lufs - usual.lufs;
  if (over < kDrumOver) return std::nullopt;
  Found found;
  found.beyond = over - kDrumOver;
  found.words.lu = over;
  found.words.loudest = nameOf(project, *findKey(project, loudest.key));
  found.words.quietest = nameOf(project, *findKey(project, usual.key));
  found.match = {LevelBy::Attack, usual.key};
  for (const auto& level : levels)
    if (level.lufs - usual.lufs >= kDrumOver / 2) found.keys.push_back(level.key);
  return found;
}

std::optional<Found> tonesApart(const Project& project, std::vector<SliceLevel> levels) {
  const double usual = levels[levels.size() / 2].lufs;
  std::erase_if(levels, [&](const SliceLevel& level) { return level.lufs < usual - kRestUnder; });
  const double apart = levels.back().lufs - levels.front().lufs;
  if (apart < kTonesApart) return std::nullopt;
  Found found;
  found.beyond = apart - kTonesApart;
  found.words.lu = apart;
  found.words.loudest = nameOf(project, *findKey(project, levels.back().key));
  found.words.quietest = nameOf(project, *findKey(project, levels.front().key));
  for (const auto& level : levels) found.keys.push_back(level.key);
  return found;
}

bool setApart(const Project& project, const std::vector<Id>& keys) {
  return std::any_of(keys.begin(), keys.end(), [&](Id key) {
    return findKey(project, key)->level.value != findKey(project, keys.front())->level.value;
  });
}

} // namespace

SliceJob jobOf(const Source& source, const Cut& cut) {
  if (!source.heard || !source.sound) return SliceJob::Tones;
  const double at = toSeconds(cut.start, source.sound->rate()).value;
  for (const auto& onset : source.heard->onsets) {
    if (onset.at.value < at - kBeforeS || onset.at.value > at + kAfterS) continue;
    const auto has = [&](HitClass hit) {
      return std::find(onset.hits.begin(), onset.hits.end(), hit) != onset.hits.end();
    };
    if (has(HitClass::Kick)) return SliceJob::Kick;
    if (has(HitClass::Snare)) return SliceJob::Snare;
    return has(HitClass::Hat) ? SliceJob::Hat : SliceJob::Tones;
  }
  return SliceJob::Tones;
}

void addLevelNote(const Project& project, const Source& source, LoudnessCache& loudness,
                  std::vector<Note>& notes) {
  const auto all = slicesOf(project, source.id);
  if (all.size() < kEnough || setApart(project, all)) return;
  std::optional<Found> worst;
  for (const SliceJob job : {SliceJob::Kick, SliceJob::Snare, SliceJob::Hat, SliceJob::Tones}) {
    const auto keys = slicesOf(project, source.id, [&](Id id) {
      const auto cut = std::find_if(source.cuts.begin(), source.cuts.end(),
                                    [id](const Cut& each) { return each.id == id; });
      return cut != source.cuts.end() && jobOf(source, *cut) == job;
    });
    const bool tones = job == SliceJob::Tones;
    auto levels = levelsOf(project, keys, tones ? LevelBy::Whole : LevelBy::Attack, loudness);
    if (levels.size() < kEnough) continue;
    std::sort(levels.begin(), levels.end(),
              [](const SliceLevel& a, const SliceLevel& b) { return a.lufs < b.lufs; });
    auto found =
        tones ? tonesApart(project, std::move(levels)) : drumOver(project, std::move(levels));
    if (found) found->words.job = job;
    if (found && (!worst || found->beyond > worst->beyond)) worst = std::move(found);
  }
  if (!worst) return;
  worst->words.source = source.name;
  Note note;
  note.id = "levels:" + source.hash;
  note.stage = Stage::Cut;
  note.finding = worst->words;
  note.fix = [keys = worst->keys, match = worst->match, &loudness](const Project& p) {
    return withLevelsMatched(p, keys, match, loudness);
  };
  notes.push_back(std::move(note));
}

} // namespace tuvvo
