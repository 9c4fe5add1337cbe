#include "notes/notes.h"

#include "model/edits.h"
#include "notes/bars_note.h"
#include "notes/cut_notes.h"
#include "notes/free_space.h"
#include "notes/level_note.h"
#include "notes/phase_note.h"
#include "notes/similarity_note.h"
#include "play/bounce.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

/// What is heard and not recorded as allowed. Whether it may be used is for the person to find out
/// and to write down: the note leads to the record, and marks nothing by itself.
void rightsNote(const Project& project, const Source& source, std::vector<Note>& notes) {
  const bool recording = source.provenance.recording == Permission::Unrecorded,
             composition = source.provenance.composition == Permission::Unrecorded;
  if (!recording && !composition) return;
  const Seconds heard = heardInSong(project, source.id);
  if (heard.value <= 0) return;
  Note note;
  note.id = "rights:" + source.hash;
  note.stage = Stage::Print;
  note.tone = Note::Tone::Trouble;
  note.finding = finding::NoPermission{source.name, recording, composition, heard};
  note.opens = source.id;
  notes.push_back(std::move(note));
}

/// What is at stake: rights before a clash in the sound, that before a matter of taste.
int stakeOf(const Note& note) {
  if (std::holds_alternative<finding::NoPermission>(note.finding)) return 0;
  return note.tone == Note::Tone::Trouble ? 1 : 2;
}

} // namespace

Seconds heardInSong(const Project& project, Id id) {
  const Source* source = findSource(project, id);
  if (!source || !source->sound) return Seconds(0);
  const Score score = compileSong(project);
  // How much of the source is in a second of what each patch plays.
  std::vector<std::pair<double, Hertz>> shares;
  for (const Patch& patch : score.patches) {
    const Key& key = *findKey(project, patch.key);
    const Id played =
        patch.layer == 0 ? key.sound.source : key.layers[std::size_t(patch.layer - 1)].sound.source;
    const Source* from = findSource(project, played);
    double share = played == id ? 1 : 0;
    if (share == 0)
      for (const Origin& origin : originsOf(project, played))
        if (origin.source == id) share += origin.share;
    shares.emplace_back(share, from && from->sound ? from->sound->rate() : kEngineRate);
  }
  double total = 0;
  for (std::size_t i = 0; i < score.events.size(); ++i) {
    const auto& event = score.events[i];
    const Patch& first = score.patches[std::size_t(event.patch)];
    double most = double((score.length - event.frame).value);
    if (first.gate && event.hold.value > 0) most = std::min(most, double(event.hold.value));
    for (std::size_t j = i + 1; j < score.events.size(); ++j) {
      const auto& later = score.events[j];
      const auto apart = double((later.frame - event.frame).value);
      if (apart >= most) break;
      const Patch& next = score.patches[std::size_t(later.patch)];
      if ((first.choke != 0 && next.choke == first.choke) ||
          (first.mono && later.patch == event.patch)) {
        most = apart;
        break;
      }
    }
    std::array<int, kMostLayers> layers{};
    const int count = layersOf(score, event, event.turn, layers);
    for (int k = 0; k < count; ++k) {
      const auto at = std::size_t(layers[std::size_t(k)]);
      const Patch& patch = score.patches[at];
      if (!patch.sound || patch.silent) continue;
      const double step = patch.step * event.tune;
      const double frames = std::min(most, double((patch.end - patch.start).value) / step);
      total += shares[at].first * frames * step / shares[at].second.value;
    }
  }
  return Seconds(total);
}

std::vector<Note> notesOf(const Project& project, LoudnessCache& loudness) {
  std::vector<Note> notes;
  for (const auto& source : project.sources) {
    if (source->kit) continue;
    addLevelNote(project, *source, loudness, notes);
    addBarsNote(*source, notes);
    addCutNotes(project, *source, notes);
    if (!source->recipe) rightsNote(project, *source, notes); // the others have their origin's
  }
  addPhaseNotes(project, notes);
  addFreeSpaceNotes(project, notes);
  addSimilarityNotes(project, notes);
  std::erase_if(notes, [&](const Note& note) { return project.dismissedNotes.contains(note.id); });
  std::stable_sort(notes.begin(), notes.end(),
                   [](const Note& a, const Note& b) { return stakeOf(a) < stakeOf(b); });
  return notes;
}

} // namespace tuvvo
