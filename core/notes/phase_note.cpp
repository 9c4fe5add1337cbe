#include "notes/phase_note.h"

#include "play/layer_phase.h"

namespace tuvvo {

namespace {

/// What a layer plays, by the name of its sound.
std::string layerName(const Project& project, const Key& key, int layer) {
  const SoundRef& sound = layer == 0 ? key.sound : key.layers[std::size_t(layer) - 1].sound;
  Key named = key;
  named.sound = sound;
  named.name.clear();
  return nameOf(project, named);
}

} // namespace

void addPhaseNotes(const Project& project, std::vector<Note>& notes) {
  for (const auto& key : project.keys) {
    const auto found = layersCancel(project, key);
    if (!found) continue;
    Note note;
    note.id = "phase:" + std::to_string(key.id);
    note.stage = Stage::Keys;
    note.tone = Note::Tone::Trouble;
    note.finding = finding::LayersCancelLows{nameOf(project, key),
                                             layerName(project, key, found->first),
                                             layerName(project, key, found->second),
                                             found->lost.value,
                                             found->polarity,
                                             layerName(project, key, found->later),
                                             found->by};
    note.fix = [id = key.id, how = *found](const Project& p) {
      return withPhaseMended(p, id, how);
    };
    notes.push_back(std::move(note));
  }
}

} // namespace tuvvo
