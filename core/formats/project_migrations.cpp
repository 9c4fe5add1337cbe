#include "formats/project_migrations.h"

#include "model/pattern.h"

#include <array>

namespace tuvvo {

namespace {

using json_read::Json;

// ---- 1 to 2: the words of the field
// ---------------------------------------------------------------

void beatsPerBarToMeter(Json& object) {
  const auto beats = object.find("beatsPerBar");
  if (beats == object.end() || !beats->is_number_integer() || object.contains("meter")) return;
  const auto count = std::clamp<std::int64_t>(beats->get<std::int64_t>(), 2, 7);
  *beats = nameOf(quarters(int(count)));
  renameField(object, "beatsPerBar", "meter");
}

void shapeFrom1(Json& shape) { renameField(shape, "pins", "warpMarkers"); }

void treatmentsFrom1(Json& key) {
  eachIn(key, "treatments", [](Json& treatment) { renameField(treatment, "school", "method"); });
}

/// Cuts were numbered by hand before names made themselves; those numbers are no names. A key of
/// that time has no hold in its envelope.
void keyFrom1(Json& key) {
  treatmentsFrom1(key);
  const auto name = key.find("name"), cut = key.find("cut");
  const bool early = !key.contains("holdMs");
  if (!early || name == key.end() || !name->is_string() || cut == key.end() || *cut == 0) return;
  const auto& text = name->get_ref<const std::string&>();
  if (std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; }))
    *name = "";
}

void sourceFrom1(Json& source) {
  renameField(source, "rights", "papers");
  renameField(source, "papers", "provenance");
  inside(source, "provenance", provenanceFrom1);
  inside(source, "shape", shapeFrom1);
  renameField(source, "made", "recipe");
  inside(source, "recipe", [](Json& recipe) {
    inside(recipe, "as", keyFrom1);
    inside(recipe, "shape", shapeFrom1);
    eachIn(recipe, "under", [](Json& under) { inside(under, "shape", shapeFrom1); });
  });
}

void feelFrom1(Json& feel) {
  renameField(feel, "leanMs", "microTimingMs");
  renameField(feel, "loosenMs", "humaniseMs");
  renameField(feel, "loosenLevel", "humaniseLevel");
  renameField(feel, "pull", "quantiseStrength");
}

/// A lane had one swing and one micro-timing before it had a feel.
void laneFeelFrom1(Json& lane) {
  if (lane.contains("feel")) return inside(lane, "feel", feelFrom1);
  Json feel = Json::object();
  const auto pairs = lane.find("swingPairs");
  if (const auto swing = lane.find("swing"); swing != lane.end() && swing->is_number())
    feel[pairs != lane.end() && *pairs == 1 ? "swing8" : "swing16"] = *swing;
  if (const auto lean = lane.find("leanMs"); lean != lane.end() && lean->is_number())
    feel["microTimingMs"] = *lean;
  for (const char* name : {"swing", "swingPairs", "leanMs"})
    if (const auto old = lane.find(name); old != lane.end() && old->is_number()) lane.erase(old);
  if (!feel.empty()) lane["feel"] = std::move(feel);
}

void patternFrom1(Json& pattern) {
  eachIn(pattern, "lanes", [](Json& lane) {
    laneFeelFrom1(lane);
    renameField(lane, "pins", "hits");
    eachIn(lane, "hits", [](Json& hit) { renameField(hit, "leanMs", "microTimingMs"); });
  });
}

void projectFrom1(Json& file) {
  beatsPerBarToMeter(file);
  renameField(file, "hushed", "dismissedNotes");
  eachIn(file, "sources", sourceFrom1);
  eachIn(file, "parts", [](Json& part) { renameField(part, "pull", "quantiseStrength"); });
  eachIn(file, "keys", keyFrom1);
  eachIn(file, "patterns", patternFrom1);
  eachIn(file, "sections", [](Json& section) { renameField(section, "resting", "mutedParts"); });
}

constexpr std::array<Migration, kNewestProject - 1> kProjectSteps{projectFrom1};

} // namespace

void bringProjectUp(Json& file) { migrate(file, kProjectSteps); }

} // namespace tuvvo
