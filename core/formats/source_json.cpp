#include "formats/source_json.h"

#include "formats/json_names.h"
#include "formats/key_json.h"
#include "formats/papers_json.h"
#include "formats/pattern_json.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

constexpr std::array kWays{"hits", "beats", "bars", "equal", "sections", "chords", "hand"};
constexpr std::array kCutEnds{"next", "decay"};
constexpr std::array kStraightenBy{"bars", "beats", "hits"};
constexpr std::array kMaterials{"by itself", "tones", "hits"};
constexpr std::int64_t kMostFrames = std::int64_t(1) << 40;

Json write(const Cut& cut) {
  Json out{{"id", cut.id}, {"start", cut.start.value}, {"end", cut.end.value}};
  if (cut.byHand) out["byHand"] = true;
  out["fadeInMs"] = cut.fadeIn.value;
  out["fadeOutMs"] = cut.fadeOut.value;
  return out;
}

Json write(const CutSettings& settings) {
  Json out{{"way", nameIn(kWays, settings.way)},
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

Json write(const Shape& shape) {
  Json out{{"method", nameIn(kMethods, shape.method)},
           {"semitones", shape.semitones.value},
           {"cents", shape.cents.value},
           {"by", nameIn(kStraightenBy, shape.by)},
           {"straighten", shape.straighten},
           {"pins", Json::array()}};
  for (const auto& pin : shape.pins)
    out["pins"].push_back({{"atS", pin.at.value}, {"beat", pin.beat}});
  if (shape.material) out["material"] = kMaterials[std::size_t(*shape.material) + 1];
  if (shape.formants) out["formants"] = true;
  return out;
}

Json write(const Made& made) {
  Json out{{"as", toJson(made.as)},   {"start", made.start.value},
           {"end", made.end.value},   {"shape", write(made.shape)},
           {"bpm", made.tempo.value}, {"meter", nameOf(made.meter)}};
  for (const auto& under : made.under)
    out["under"].push_back(
        {{"start", under.start.value}, {"end", under.end.value}, {"shape", write(under.shape)}});
  return out;
}

CutSettings readCutSettings(const Json& json) {
  CutSettings settings;
  settings.way = choice<CutWay>(json, "way", kWays);
  settings.sensitivity = number(json, "sensitivity", 0, 1, 0.5);
  settings.perBeat = int(integer(json, "perBeat", 1, 8, 1));
  settings.barsEach = int(integer(json, "barsEach", 1, 16, 1));
  settings.parts = int(integer(json, "parts", 1, 128, 8));
  settings.end = choice<CutEnd>(json, "end", kCutEnds);
  settings.fromDownbeat = flag(json, "fromDownbeat");
  if (find(json, "classes")) {
    settings.classes = {};
    for (const auto& name : list(json, "classes", 4))
      for (std::size_t i = 0; i < settings.classes.size(); ++i)
        if (name.is_string() && name.get<std::string>() == nameOf(HitClass(i)))
          settings.classes[i] = true;
  }
  return settings;
}

Shape readShape(const Json& json) {
  Shape shape;
  shape.method = choice<FitMethod>(json, "method", kMethods);
  shape.semitones = Semitones(number(json, "semitones", -36, 36, 0));
  shape.cents = Cents(number(json, "cents", -50, 50, 0));
  shape.by = choice<StraightenBy>(json, "by", kStraightenBy);
  shape.straighten = number(json, "straighten", 0, 1, 0);
  for (const auto& each : list(json, "pins", 10'000))
    shape.pins.push_back(
        {Seconds(number(each, "atS", 0, 1e6, 0)), number(each, "beat", -1e5, 1e5, 0)});
  std::sort(shape.pins.begin(), shape.pins.end(),
            [](const TimePin& a, const TimePin& b) { return a.at < b.at; });
  if (const int material = choice<int>(json, "material", kMaterials); material > 0)
    shape.material = Material(material - 1);
  shape.formants = flag(json, "formants");
  return shape;
}

Made readMade(const Json& json) {
  Made made;
  if (const Json* as = find(json, "as")) made.as = keyFromJson(*as);
  made.start = Frames(integer(json, "start", 0, kMostFrames, 0));
  made.end = Frames(integer(json, "end", 0, kMostFrames, 0));
  if (const Json* shape = find(json, "shape")) made.shape = readShape(*shape);
  for (const auto& each : list(json, "under", kMostLayers)) {
    Made::Under under;
    under.start = Frames(integer(each, "start", 0, kMostFrames, 0));
    under.end = Frames(integer(each, "end", 0, kMostFrames, 0));
    if (const Json* shape = find(each, "shape")) under.shape = readShape(*shape);
    made.under.push_back(std::move(under));
  }
  made.tempo = Bpm(number(json, "bpm", 20, 400, 90));
  made.meter = meterIn(json);
  return made;
}

} // namespace

Json toJson(const Source& source) {
  Json out{
      {"id", source.id}, {"name", source.name}, {"origin", source.origin}, {"hash", source.hash}};
  if (source.kit) out["kit"] = true;
  if (source.corrections != Corrections{}) out["corrected"] = toJson(source.corrections);
  if (source.papers != Papers{}) out["papers"] = toJson(source.papers);
  out["cutting"] = write(source.cutting);
  out["cuts"] = Json::array();
  for (const auto& cut : source.cuts) out["cuts"].push_back(write(cut));
  if (source.shape != Shape{}) out["shape"] = write(source.shape);
  if (source.made) out["made"] = write(*source.made);
  addUnknown(out, source.extra);
  return out;
}

Source sourceFromJson(const Json& json) {
  Source source;
  source.id = idFrom(json);
  source.name = text(json, "name", "untitled");
  source.origin = text(json, "origin");
  source.hash = text(json, "hash");
  const auto hex = [](char c) { return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'f'); };
  // The hash becomes a file name, so nothing but a hash is taken for one.
  if (source.hash.size() != 32 || !std::all_of(source.hash.begin(), source.hash.end(), hex))
    throw Bad{"the sound of \"" + source.name + "\" has no proper hash"};
  source.kit = flag(json, "kit");
  if (const Json* corrected = find(json, "corrected"))
    source.corrections = correctionsFromJson(*corrected);
  for (const char* name : {"rights", "papers"}) // under the first name in older files
    if (const Json* papers = find(json, name)) source.papers = papersFromJson(*papers);
  if (const Json* cutting = find(json, "cutting")) {
    source.cutting = readCutSettings(*cutting);
  }
  for (const auto& c : list(json, "cuts", 100'000)) {
    Cut cut;
    cut.id = idFrom(c);
    cut.start = Frames(integer(c, "start", 0, kMostFrames, 0));
    cut.end = Frames(integer(c, "end", 0, kMostFrames, 0));
    cut.byHand = flag(c, "byHand");
    cut.fadeIn = Milliseconds(number(c, "fadeInMs", 0, 50, 1));
    cut.fadeOut = Milliseconds(number(c, "fadeOutMs", 0, 50, 4));
    if (cut.end > cut.start) source.cuts.push_back(cut);
  }
  if (const Json* shape = find(json, "shape")) source.shape = readShape(*shape);
  if (const Json* made = find(json, "made"))
    source.made = std::make_shared<const Made>(readMade(*made));
  source.extra = unknownFields(json, {"id", "name", "origin", "hash", "kit", "corrected", "rights",
                                      "papers", "cutting", "cuts", "shape", "made"});
  return source;
}

} // namespace tuvvo
