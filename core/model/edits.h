// Edits: pure functions from a project to the next one. None fails: what cannot be done (no such
// thing, out of range) is brought into range or leaves the project as it was.
#pragma once

#include "model/project.h"

#include <functional>

namespace tuvvo {

// ---- Sources ------------------------------------------------------------------------------------

/// Adds a source under a new id; returns it in *added. A source with the same hash is not added
/// twice: its id is returned and the project stays the same.
[[nodiscard]] Project withSource(Project project, Source source, Id* added = nullptr);
/// The beat takes the tempo and the key of a source, each where the source has one, as corrected.
[[nodiscard]] Project withTempoAndKeyOf(Project project, const Source& source);
/// Changes one source in place.
[[nodiscard]] Project withSourceChanged(Project project, Id source,
                                        const std::function<void(Source&)>& change);
/// Calls a hit of a source by other classes, and with `alikeToo` every hit of its group.
/// @param change  of what a hit is called now; one of its group that it leaves alone is not said
///                anew
[[nodiscard]] Project withHitsChanged(Project project, Id source, Seconds at, bool alikeToo,
                                      const std::function<void(std::vector<HitClass>&)>& change);
/// Takes a source away with its keys and their hits.
[[nodiscard]] Project withoutSource(Project project, Id source);

/// Lays new cuts on a source and deals them to the Cuts row in order. A key stays with its cut, or
/// with the new one that begins within 30 ms of where its own began, and keeps its settings and
/// hits; the others are used again in order, and those left over go, with their hits. Cuts are
/// given ids, sorted, and held inside the sound.
[[nodiscard]] Project withCuts(Project project, Id source, const CutSettings& settings,
                               std::vector<Cut> cuts);

// ---- Keys and parts -----------------------------------------------------------------------------

inline constexpr Milliseconds kFloorGlide{40};
/// Puts a sound on a key of the deck; a key that is there already keeps its hits and settings and
/// gets the sound and name. A part is made for a new key; keys of cuts share one part a source. A
/// new key of the Floor row is mono and glides.
[[nodiscard]] Project withKeySound(Project project, Row row, int column, int page,
                                   const SoundRef& sound, const std::string& name,
                                   Id* key = nullptr);
/// Puts a sound on the first free place of a row; of Body, Floor or Air where that is full; else of
/// a page of Cuts, of which there are always more.
[[nodiscard]] Project withSoundOnDeck(Project project, Row row, const SoundRef& sound,
                                      const std::string& name, Id* key = nullptr);
[[nodiscard]] Project withKeyChanged(Project project, Id key,
                                     const std::function<void(Key&)>& change);
/// Mutes or solos a key, its part or its whole row, or takes that back.
enum class Whose { Key, Part, Role };
[[nodiscard]] Project withMuteFlipped(Project project, Id key, Whose whose, bool solo);
/// Lays another sound under a key; with as many as there may be the project stays as it was.
[[nodiscard]] Project withLayer(Project project, Id key, const Layer& layer);
/// Takes a layer away: 0 is the key's own sound, and the next one takes its place with its
/// settings; the last sound stays.
[[nodiscard]] Project withoutLayer(Project project, Id key, std::size_t layer);
/// Chooses which layers sound. By velocity, they share the velocities evenly, in their order,
/// unless they have borders already.
[[nodiscard]] Project withLayerMode(Project project, Id key, LayerMode way);
/// Takes a key away with its hits, and its part if no other key writes on it.
[[nodiscard]] Project withoutKey(Project project, Id key);
[[nodiscard]] Project withPartChanged(Project project, Id part,
                                      const std::function<void(Part&)>& change);
/// Lays one key's settings on others: all but their places, names, parts and what they play.
[[nodiscard]] Project withSettingsOf(Project project, const Key& from, const std::vector<Id>& to);
/// Moves a key to the first free place of another row, with its hits; on a row that is full the
/// project stays as it was.
[[nodiscard]] Project withRole(Project project, Id key, Row row);
/// The row a sound starts in, by its brightness and length: Floor, Body or Air.
[[nodiscard]] Row suggestedRow(const Source& source);
/// The first free key of a row, if there is one.
[[nodiscard]] std::optional<int> freeColumn(const Project& project, Row row);

// ---- Patterns and song --------------------------------------------------------------------------

/// Adds a groove; one that is there already, name and all, is not added twice.
[[nodiscard]] Project withGroove(Project project, Groove groove, Id* added = nullptr);
[[nodiscard]] Project withPattern(Project project, Pattern pattern, Id* added = nullptr);
[[nodiscard]] Project withPatternChanged(Project project, Id pattern,
                                         const std::function<void(Pattern&)>& change);
/// Takes a pattern away with the sections that play it; the last pattern stays.
[[nodiscard]] Project withoutPattern(Project project, Id pattern);
/// The lane of a part, made if it is not there.
[[nodiscard]] Lane& laneOf(Pattern& pattern, Id part);

/// Adds a section before the given place (the end when it is beyond).
[[nodiscard]] Project withSection(Project project, Section section, std::size_t place,
                                  Id* added = nullptr);
[[nodiscard]] Project withSectionChanged(Project project, Id section,
                                         const std::function<void(Section&)>& change);
[[nodiscard]] Project withSectionMoved(Project project, Id section, int steps);
[[nodiscard]] Project withoutSection(Project project, Id section);

} // namespace tuvvo
