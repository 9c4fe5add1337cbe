#include "formats/provenance_json.h"

#include "base/tempo_map.h"
#include "formats/json_read.h"

#include <array>

namespace tuvvo {

using namespace json_read;

namespace {

// Names as they stand in the files; the order is that of the enumeration.
constexpr std::array kPermissions{"unrecorded", "own", "granted", "asked", "open licence"};

} // namespace

nlohmann::ordered_json toJson(const Provenance& provenance) {
  Json out = Json::object();
  const std::pair<const char*, const std::string&> texts[] = {{"title", provenance.title},
                                                              {"maker", provenance.maker},
                                                              {"from", provenance.from},
                                                              {"when", provenance.when},
                                                              {"note", provenance.note}};
  for (const auto& [name, value] : texts)
    if (!value.empty()) out[name] = value;
  const std::pair<const char*, Permission> permissions[] = {
      {"recording", provenance.recording}, {"composition", provenance.composition}};
  for (const auto& [name, value] : permissions)
    if (value != Permission::Unrecorded) out[name] = kPermissions[std::size_t(value)];
  return out;
}

Provenance readProvenance(Fields& f) {
  Provenance provenance;
  provenance.title = f.text("title");
  provenance.maker = f.text("maker");
  provenance.from = f.text("from");
  provenance.when = f.text("when");
  provenance.note = f.text("note");
  provenance.recording = f.choice<Permission>("recording", kPermissions);
  provenance.composition = f.choice<Permission>("composition", kPermissions);
  return provenance;
}

namespace {

Json write(const HitCorrection& said) {
  Json hits = Json::array();
  for (HitClass hit : said.hits) hits.push_back(nameOf(hit));
  Json out{{"atS", said.at.value}, {"hits", hits}};
  addRest(out, said.extra);
  return out;
}

HitCorrection readHit(const Json& json, Reading& reading) {
  Fields f(json, reading);
  HitCorrection said{Seconds(f.number("atS", 0, 1e6, 0)), {}, {}};
  for (const auto& name : f.list("hits", 8))
    for (HitClass each : {HitClass::Kick, HitClass::Snare, HitClass::Hat, HitClass::Other})
      if (name.is_string() && name.get_ref<const std::string&>() == nameOf(each))
        said.hits.push_back(each);
  if (said.hits.empty()) throw Bad{"a hit of no known class"};
  said.extra = f.rest([&] { return write(said); });
  return said;
}

} // namespace

nlohmann::ordered_json toJson(const Corrections& corrections) {
  Json out = Json::object();
  if (corrections.tempo) out["bpm"] = corrections.tempo->value;
  if (corrections.downbeat) out["downbeatS"] = corrections.downbeat->value;
  if (corrections.key) out["key"] = nameOf(*corrections.key);
  if (corrections.kind) out["kind"] = nameOf(*corrections.kind);
  for (const auto& said : corrections.hits) out["hits"].push_back(write(said));
  return out;
}

Corrections readCorrections(Fields& f) {
  Corrections out;
  if (f.find("bpm"))
    out.tempo = Bpm(f.number("bpm", kSlowestTempo.value, kFastestTempo.value, 120));
  if (f.find("downbeatS")) out.downbeat = Seconds(f.number("downbeatS", 0, 1e5, 0));
  const std::string key = f.text("key"), kind = f.text("kind");
  out.key = keyFromName(key);
  if (!out.key && !key.empty()) f.odd("key", "key");
  for (std::size_t k = 0; k < kSoundKinds; ++k)
    if (kind == nameOf(SoundKind(k))) out.kind = SoundKind(k);
  if (!out.kind && !kind.empty()) f.odd("kind", "known kind of sound");
  f.entries("hits", 500'000,
            [&](const Json& said) { out.hits.push_back(readHit(said, f.reading())); });
  return out;
}

} // namespace tuvvo
