// Notes: measured judgement calls, each with what was found and a fix that can be undone.
#pragma once

#include "cut/slice_levels.h"
#include "notes/findings.h"

#include <functional>

namespace tuvvo {

enum class Stage { Crate, Cut, Keys, Beat, Song, Print };

struct Note {
  enum class Tone { Trouble, Taste, Good };
  std::string id; ///< the same as long as it is about the same thing; what Dismiss keeps
  Stage stage = Stage::Crate; ///< where it belongs
  Tone tone = Tone::Taste;
  Finding finding;
  std::function<Project(const Project&)> fix; ///< nothing where only the person can do it
  Id opens = 0; ///< the source whose record is opened instead; 0: none
};

/// All notes that speak now, dismissed ones left out, by what is at stake: rights, a clash, taste.
/// Not for the audio thread; a few hundred milliseconds when loudness is measured for the first
/// time, then quick.
[[nodiscard]] std::vector<Note> notesOf(const Project& project, LoudnessCache& loudness);

/// How long a source is heard in the song, in seconds of the source: each hit counts to its end, to
/// the next hit that chokes it, or to the end of its hold.
[[nodiscard]] Seconds heardInSong(const Project& project, Id source);

} // namespace tuvvo
