#include "formats/source_json.h"

#include "formats/json_names.h"
#include "formats/key_json.h"
#include "formats/pattern_json.h"
#include "formats/provenance_json.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

Json toJson(const Cut& cut) {
  Json out{{"id", cut.id}, {"start", cut.start.value}, {"end", cut.end.value}};
  if (cut.byHand) out["byHand"] = true;
  out["fadeInMs"] = cut.fadeIn.value;
  out["fadeOutMs"] = cut.fadeOut.value;
  addRest(out, cut.extra);
  return out;
}

namespace {

constexpr std::array kWays{"hits", "beats", "bars", "equal", "sections", "chords", "hand"};
constexpr std::array kCutEnds{"next", "decay"};
constexpr std::array kStraightenBy{"bars", "beats", "hits"};
constexpr std::array kMaterials{"by itself", "tones", "hits"};
constexpr std::int64_t kMostFrames = std::int64_t(1) << 40;

Cut readCut(const Json& json, Reading& reading) {
  Fields f(json, reading);
  Cut cut;
  cut.id = idFrom(f);
  cut.start = Frames(f.integer("start", 0, kMostFrames, 0));
  cut.end = Frames(f.integer("end", 0, kMostFrames, 0));
  cut.byHand = f.flag("byHand");
  cut.fadeIn = Milliseconds(f.number("fadeInMs", 0, 50, 1));
  cut.fadeOut = Milliseconds(f.number("fadeOutMs", 0, 50, 4));
  if (cut.end <= cut.start) throw Bad{"a cut that ends before it begins"};
  cut.extra = f.rest([&] { return toJson(cut); });
  return cut;
}

Json write(const CutSettings& settings) {
  Json out{{"way", nameIn(kWays, settings.mode)},
           {"sensitivity", settings.sensitivity},
           {"perBeat", settings.perBeat},
           {"barsEach", settings.barsEach},
           {"parts", settings.parts},
           {"end", nameIn(kCutEnds, settings.end)},
           {"fromDownbeat", settings.fromDownbeat},
           {"classes", Json::array()}};
  for (std::size_t i = 0; i < settings.classes.size(); ++i)
    if (settings.classes[i]) out["classes"].push_back(nameOf(HitClass(i)));
  return out;
}

Json write(const WarpMarker& marker) {
  Json out{{"atS", marker.at.value}, {"beat", marker.beat}};
  addRest(out, marker.extra);
  return out;
}

WarpMarker readMarker(const Json& json, Reading& reading) {
  Fields f(json, reading);
  WarpMarker marker{Seconds(f.number("atS", 0, 1e6, 0)), f.number("beat", -1e5, 1e5, 0), {}};
  marker.extra = f.rest([&] { return write(marker); });
  return marker;
}

Json write(const Shape& shape) {
  Json out{{"method", nameIn(kMethods, shape.method)},
           {"semitones", shape.semitones.value},
           {"cents", shape.cents.value},
           {"by", nameIn(kStraightenBy, shape.by)},
           {"straighten", shape.straighten},
           {"warpMarkers", Json::array()}};
  for (const auto& marker : shape.markers) out["warpMarkers"].push_back(write(marker));
  if (shape.material) out["material"] = kMaterials[std::size_t(*shape.material) + 1];
  if (shape.formants) out["formants"] = true;
  return out;
}

Json write(const Recipe::Under& under) {
  Json out{{"start", under.start.value}, {"end", under.end.value}, {"shape", write(under.shape)}};
  addRest(out, under.extra);
  return out;
}

Json write(const Recipe& made) {
  Json out{{"as", toJson(made.as)},   {"start", made.start.value},
           {"end", made.end.value},   {"shape", write(made.shape)},
           {"bpm", made.tempo.value}, {"meter", nameOf(made.meter)}};
  for (const auto& under : made.under) out["under"].push_back(write(under));
  return out;
}

CutSettings readCutSettings(Fields& f) {
  CutSettings settings;
  settings.mode = f.choice<CutMode>("way", kWays);
  settings.sensitivity = f.number("sensitivity", 0, 1, 0.5);
  settings.perBeat = int(f.integer("perBeat", 1, 8, 1));
  settings.barsEach = int(f.integer("barsEach", 1, 16, 1));
  settings.parts = int(f.integer("parts", 1, 128, 8));
  settings.end = f.choice<CutEnd>("end", kCutEnds);
  settings.fromDownbeat = f.flag("fromDownbeat");
  if (f.find("classes")) {
    settings.classes = {};
    for (const auto& name : f.list("classes", 16))
      for (std::size_t i = 0; i < settings.classes.size(); ++i)
        if (name.is_string() && name.get_ref<const std::string&>() == nameOf(HitClass(i)))
          settings.classes[i] = true;
  }
  return settings;
}

Shape readShape(Fields& f) {
  Shape shape;
  shape.method = f.choice<FitMethod>("method", kMethods);
  shape.semitones = Semitones(f.number("semitones", -36, 36, 0));
  shape.cents = Cents(f.number("cents", -50, 50, 0));
  shape.by = f.choice<StraightenBy>("by", kStraightenBy);
  shape.straighten = f.number("straighten", 0, 1, 0);
  f.entries("warpMarkers", 10'000,
            [&](const Json& marker) { shape.markers.push_back(readMarker(marker, f.reading())); });
  std::stable_sort(shape.markers.begin(), shape.markers.end(),
                   [](const WarpMarker& a, const WarpMarker& b) { return a.at < b.at; });
  if (const int material = f.choice<int>("material", kMaterials); material > 0)
    shape.material = Material(material - 1);
  shape.formants = f.flag("formants");
  return shape;
}

Recipe::Under readUnder(const Json& json, Reading& reading) {
  Fields f(json, reading);
  Recipe::Under under;
  under.start = Frames(f.integer("start", 0, kMostFrames, 0));
  under.end = Frames(f.integer("end", 0, kMostFrames, 0));
  f.inside("shape", [&](Fields& shape) { under.shape = readShape(shape); });
  under.extra = f.rest([&] { return write(under); });
  return under;
}

Recipe readRecipe(Fields& f) {
  Recipe made;
  if (const Json* as = f.find("as")) made.as = keyFromJson(*as, f.reading());
  made.start = Frames(f.integer("start", 0, kMostFrames, 0));
  made.end = Frames(f.integer("end", 0, kMostFrames, 0));
  f.inside("shape", [&](Fields& shape) { made.shape = readShape(shape); });
  f.entries("under", kMostLayers,
            [&](const Json& each) { made.under.push_back(readUnder(each, f.reading())); });
  made.tempo = Bpm(f.number("bpm", kSlowestTempo.value, kFastestTempo.value, 90));
  made.meter = anyMeterIn(f);
  return made;
}

/// All but the cuts.
Json head(const Source& source) {
  Json out{
      {"id", source.id}, {"name", source.name}, {"origin", source.origin}, {"hash", source.hash}};
  if (source.kit) out["kit"] = true;
  if (source.corrections != Corrections{}) out["corrected"] = toJson(source.corrections);
  if (source.provenance != Provenance{}) out["provenance"] = toJson(source.provenance);
  out["cutting"] = write(source.cutting);
  if (source.shape != Shape{}) out["shape"] = write(source.shape);
  if (source.recipe) out["recipe"] = write(*source.recipe);
  return out;
}

} // namespace

Json toJson(const Source& source) {
  Json out = head(source);
  out["cuts"] = Json::array();
  for (const auto& cut : source.cuts) out["cuts"].push_back(toJson(cut));
  addRest(out, source.extra);
  return out;
}

Source sourceFromJson(const Json& json, Reading& reading) {
  Fields f(json, reading);
  Source source;
  source.id = idFrom(f);
  source.name = f.text("name", "untitled");
  source.origin = f.text("origin");
  source.hash = f.text("hash");
  const auto hex = [](char c) { return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'f'); };
  // The hash becomes a file name, so nothing but a hash is taken for one.
  if (source.hash.size() != 32 || !std::all_of(source.hash.begin(), source.hash.end(), hex))
    throw Bad{"a sound without a proper hash"};
  source.kit = f.flag("kit");
  f.inside("corrected", [&](Fields& said) { source.corrections = readCorrections(said); });
  f.inside("provenance",
           [&](Fields& provenance) { source.provenance = readProvenance(provenance); });
  f.inside("cutting", [&](Fields& cutting) { source.cutting = readCutSettings(cutting); });
  f.entries("cuts", 100'000,
            [&](const Json& cut) { source.cuts.push_back(readCut(cut, reading)); });
  f.inside("shape", [&](Fields& shape) { source.shape = readShape(shape); });
  f.inside("recipe",
           [&](Fields& made) { source.recipe = std::make_shared<const Recipe>(readRecipe(made)); });
  source.extra = f.rest([&] { return head(source); });
  return source;
}

} // namespace tuvvo
