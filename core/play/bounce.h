// Bouncing: what acts on a sound is played once and kept as a source of its own, with the recipe.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "play/score.h"

namespace tuvvo {

/// The recipe of what a key plays now.
/// @returns nothing for a key without a sound
[[nodiscard]] std::optional<Recipe> recipeOf(const Project& project, const Key& key);
/// The recipe of treating a whole source at its own tempo and pitch.
[[nodiscard]] Recipe treatedWhole(const Source& source, std::vector<Treatment> treatments);

/// A beat of nothing but a recipe: its sources, each with one cut at most, and one key.
/// @param sources  those that the recipe names must be among them; what is not there is not played
[[nodiscard]] Project beatOf(const std::vector<SourcePtr>& sources, const Recipe& made);

/// Plays a recipe once through the engine, to its own end: what it sounds like on its key, layers,
/// level, pan, envelope and filters included, without the master's limiter. Two channels at the
/// engine's rate; the same recipe over the same sources gives the same samples again.
/// Not for the audio thread.
/// @param sources  those that the recipe names must be among them
/// @returns an Error for a source that is missing or has no sound, when a treatment cannot be done,
///          and when the job was cancelled
Result<SoundPtr> bounce(const std::vector<SourcePtr>& sources, const Recipe& made, JobContext& job);

/// The same for a file that goes round in another program: no decay is played into it, and the loop
/// lies where a round of it has passed (so that filters have settled), as many rounds long as come
/// out on a whole number of frames without moving the pitch by a twentieth of a cent. Where nothing
/// goes round: as bounce() gives it, without decay.
Result<Baked> bounceRound(const std::vector<SourcePtr>& sources, Recipe made, JobContext& job);

/// A source made by a recipe, with the provenance of the one it comes from; not listened to yet.
[[nodiscard]] Source sourceOf(const Source& from, const Recipe& made, SoundPtr sound,
                              const std::string& name);
/// A bounce in place: the key plays the made source and nothing acts on it any more. Its hits stay
/// where they are heard: those of a sound that swelled into its hits now begin where it began.
[[nodiscard]] Project withBounced(Project project, Id key, Source made, Id* added = nullptr);
/// Another recipe for a made source: its sound is replaced, its cuts are held inside it.
[[nodiscard]] Project withRemade(Project project, Id source, const Recipe& made, SoundPtr sound,
                                 const Analysis& heard);

/// Which piece of a chop is heard when, where the treatments before it have done their part.
/// @param treatment  place of the chop among the key's treatments; empty where none stands there
[[nodiscard]] std::vector<int> piecesOf(const Project& project, Key key, std::size_t treatment);

/// Where a made sound comes from in the end: the sources outside, through all bounces, and how many
/// seconds of each are in a second of the sound. A sound from outside comes from itself.
struct Origin {
  Id source = 0;
  double share = 1;
};
[[nodiscard]] std::vector<Origin> originsOf(const Project& project, Id source);

} // namespace tuvvo
