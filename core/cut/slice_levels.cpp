#include "cut/slice_levels.h"

#include "listen/levels.h"
#include "model/edits.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr double kSilentLufs = -60;
constexpr Milliseconds kAttack{120};

/// Every key to its own target loudness, as far as there is room.
Project brought(const Project& project, const std::vector<SliceLevel>& levels, double toLufs) {
  Project next = project;
  for (const auto& slice : levels) {
    const Key* key = findKey(project, slice.key);
    const double own = key->level.value, room = own - slice.peak; // to full scale
    const double level = std::min({own + toLufs - slice.lufs, std::max(room, own), 12.0});
    next = withKeyChanged(std::move(next), slice.key,
                          [&](Key& changed) { changed.level = Decibels(level); });
  }
  return next;
}

} // namespace

double LoudnessCache::of(const Sound& sound, Frames start, Frames end) {
  const Place place = placeOf(sound, start, end);
  {
    const std::lock_guard lock(m_mutex);
    if (const auto known = m_known.find(place); known != m_known.end()) return known->second;
  }
  const double lufs = loudnessOf(sound, start, end);
  const std::lock_guard lock(m_mutex);
  return m_known[place] = lufs;
}

float LoudnessCache::peakOf(const Sound& sound, Frames start, Frames end) {
  const Place place = placeOf(sound, start, end);
  {
    const std::lock_guard lock(m_mutex);
    if (const auto known = m_peaks.find(place); known != m_peaks.end()) return known->second;
  }
  const float peak = tuvvo::peakOf(sound, start, end);
  const std::lock_guard lock(m_mutex);
  return m_peaks[place] = peak;
}

std::vector<Id> slicesOf(const Project& project, Id source, const std::function<bool(Id)>& wanted) {
  std::vector<const Key*> keys;
  for (const auto& key : project.keys)
    if (key.sound.source == source && key.sound.cut != 0 && (!wanted || wanted(key.sound.cut)))
      keys.push_back(&key);
  std::sort(keys.begin(), keys.end(), [](const Key* a, const Key* b) {
    return std::tuple(a->row, a->page, a->column) < std::tuple(b->row, b->page, b->column);
  });
  std::vector<Id> out;
  for (const Key* key : keys) out.push_back(key->id);
  return out;
}

std::vector<SliceLevel> levelsOf(const Project& project, const std::vector<Id>& keys, LevelBy by,
                                 LoudnessCache& loudness) {
  std::vector<SliceLevel> out;
  for (Id id : keys) {
    const Key* key = findKey(project, id);
    const Source* source = key ? findSource(project, key->sound.source) : nullptr;
    if (!source || !source->sound) continue;
    const Stretch whole = stretchOf(*source, *key);
    Stretch judged = whole;
    if (by == LevelBy::Attack)
      judged.end = std::min(whole.end, whole.start + toFrames(kAttack, source->sound->rate()));
    const double lufs = loudness.of(*source->sound, judged.start, judged.end);
    const float peak = loudness.peakOf(*source->sound, whole.start, whole.end);
    if (lufs < kSilentLufs || peak <= 0) continue;
    out.push_back({id, lufs + key->level.value, decibelsOf(double(peak)).value + key->level.value});
  }
  return out;
}

LevelSpread levelSpread(const Project& project, const std::vector<Id>& keys, LevelBy by,
                        LoudnessCache& loudness) {
  const auto levels = levelsOf(project, keys, by, loudness);
  LevelSpread spread;
  if (levels.size() < 2) return spread;
  const auto [low, high] = std::minmax_element(
      levels.begin(), levels.end(), [](const auto& a, const auto& b) { return a.lufs < b.lufs; });
  spread.lu = high->lufs - low->lufs;
  spread.loudest = nameOf(project, *findKey(project, high->key));
  spread.quietest = nameOf(project, *findKey(project, low->key));
  return spread;
}

Project withLevelsMatched(const Project& project, const std::vector<Id>& keys,
                          const LevelMatch& match, LoudnessCache& loudness) {
  const auto levels = levelsOf(project, keys, match.by, loudness);
  if (levels.empty()) return project;
  std::vector<double> all;
  for (const auto& slice : levels) all.push_back(slice.lufs);
  std::sort(all.begin(), all.end());
  double target = all[all.size() / 2];
  if (match.to != 0) {
    const auto like = levelsOf(project, {match.to}, match.by, loudness);
    if (like.empty()) return project; // silent: nothing to be like
    target = like[0].lufs;
  }
  return brought(project, levels, target);
}

Project withPeaksNormalised(const Project& project, const std::vector<Id>& keys,
                            LoudnessCache& loudness) {
  Project next = project;
  for (const auto& slice : levelsOf(project, keys, LevelBy::Whole, loudness))
    next = withKeyChanged(std::move(next), slice.key, [&](Key& key) {
      key.level = Decibels(std::min(12.0, key.level.value + kNormalPeakDb - slice.peak));
    });
  return next;
}

Project withLoudnessNormalised(const Project& project, const std::vector<Id>& keys, LevelBy by,
                               LoudnessCache& loudness) {
  return brought(project, levelsOf(project, keys, by, loudness), kNormalLufs);
}

} // namespace tuvvo
