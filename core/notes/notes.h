// Notes: measured judgement calls, each with one sentence of reason and a fix that can be undone.
#pragma once

#include "model/project.h"

#include <functional>
#include <map>
#include <mutex>

namespace tuvvo {

enum class Stage { Crate, Cut, Keys, Beat, Song, Print };

struct Note {
  enum class Tone { Trouble, Taste, Good };
  std::string id;             ///< the same as long as it is about the same thing; what Hush keeps
  Stage stage = Stage::Crate; ///< where it belongs
  Tone tone = Tone::Taste;
  std::string figure; ///< "6.2 LU apart"
  std::string reason; ///< one sentence
  std::string action; ///< what Do it does, a few words; also the name of the edit
  std::function<Project(const Project&)> fix;
};

/// Loudness of stretches, measured once each. Any thread.
class LoudnessCache {
public:
  /// LUFS, −infinity for silence; see loudnessOf().
  double of(const Sound& sound, Frames start, Frames end);

private:
  std::mutex m_mutex;
  std::map<std::string, double> m_known;
};

/// All notes that speak now, hushed ones left out, most useful first. Not for the audio thread; a
/// few hundred milliseconds when loudness is measured for the first time, then quick.
[[nodiscard]] std::vector<Note> notesOf(const Project& project, LoudnessCache& loudness);

/// How long a source is heard in the song, in seconds of the source: each hit counts to its end, to
/// the next hit that chokes it, or to the end of its hold.
[[nodiscard]] Seconds heardInSong(const Project& project, Id source);

/// Sets the levels of a source's cut keys so that all come out at the median loudness, no key above
/// +12 dB or beyond full scale.
[[nodiscard]] Project withLevelsMatched(const Project& project, Id source, LoudnessCache& loudness);

/// Loudness of the loudest over the quietest cut key of a source, levels included; 0 for fewer than
/// two. Silent cuts (below −60 LUFS) do not count.
struct LevelSpread {
  double lu = 0;
  std::string loudest, quietest; ///< key names
};
[[nodiscard]] LevelSpread levelSpread(const Project& project, Id source, LoudnessCache& loudness);

} // namespace tuvvo
