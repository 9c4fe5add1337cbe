// MIDI files: as a pattern on a deck, and as messages in time.
#include "formats/smf_beat.h"
#include "formats/smf_notes.h"
#include "fuzz.h"
#include "model/edits.h"

using namespace tuvvo;

namespace {

Project deck() {
  Project project;
  Source source;
  source.hash = std::string(32, 'a');
  Id id = 0;
  project = withSource(std::move(project), source, &id);
  for (Row row : {Row::Air, Row::Body, Row::Floor})
    for (int column = 0; column < kColumns; ++column)
      project = withKeySound(std::move(project), row, column, 0, {id, 0}, "key");
  return project;
}

} // namespace

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  static const Project project = deck();
  SmfReading reading;
  reading.tones = project.keys.front().id;
  const auto beat = smfBeatFrom({bytes, count}, "input", project, "x", reading);
  if (beat)
    for (const auto& lane : beat->pattern.lanes)
      for (const auto& hit : lane.hits)
        fuzz::mustHold(hit.at.value >= 0 && hit.velocity > 0 && hit.velocity <= 1, "sane pins");
  const fuzz::InputFile file(bytes, count);
  if (const auto notes = readSmf(file.path()))
    for (const auto& note : *notes) fuzz::mustHold(note.atS >= 0, "time goes forward");
  return 0;
}
