#include "formats/papers_json.h"

#include "base/tempo_map.h"
#include "formats/json_read.h"

#include <array>

namespace tuvvo {

using namespace json_read;

namespace {

// Names as they stand in the files; the order is that of the enumeration.
constexpr std::array kPermissions{"unrecorded", "own", "granted", "asked", "open licence"};

Permission permissionFrom(const Json& object, const char* name) {
  const std::string given = text(object, name, kPermissions[0]);
  for (std::size_t i = 0; i < kPermissions.size(); ++i)
    if (given == kPermissions[i]) return Permission(i);
  throw Bad{"\"" + given + "\" is no value for \"" + name + "\""};
}

} // namespace

nlohmann::ordered_json toJson(const Papers& papers) {
  Json out = Json::object();
  const std::pair<const char*, const std::string&> texts[] = {{"title", papers.title},
                                                              {"maker", papers.maker},
                                                              {"from", papers.from},
                                                              {"when", papers.when},
                                                              {"note", papers.note}};
  for (const auto& [name, value] : texts)
    if (!value.empty()) out[name] = value;
  const std::pair<const char*, Permission> permissions[] = {{"recording", papers.recording},
                                                            {"composition", papers.composition}};
  for (const auto& [name, value] : permissions)
    if (value != Permission::Unrecorded) out[name] = kPermissions[std::size_t(value)];
  return out;
}

nlohmann::ordered_json toJson(const Corrections& corrections) {
  Json out = Json::object();
  if (corrections.tempo) out["bpm"] = corrections.tempo->value;
  if (corrections.downbeat) out["downbeatS"] = corrections.downbeat->value;
  if (corrections.key) out["key"] = nameOf(*corrections.key);
  if (corrections.kind) out["kind"] = nameOf(*corrections.kind);
  for (const auto& said : corrections.hits) {
    Json hits = Json::array();
    for (HitClass hit : said.hits) hits.push_back(nameOf(hit));
    out["hits"].push_back({{"atS", said.at.value}, {"hits", hits}});
  }
  return out;
}

Papers papersFromJson(const nlohmann::ordered_json& json) {
  Papers papers;
  papers.title = text(json, "title");
  papers.maker = text(json, "maker");
  papers.from = text(json, "from");
  papers.when = text(json, "when");
  papers.note = text(json, "note");
  papers.recording = permissionFrom(json, "recording");
  papers.composition = permissionFrom(json, "composition");
  // As written before there were two permissions.
  if (find(json, "permission")) papers.recording = permissionFrom(json, "permission");
  return papers;
}

Corrections correctionsFromJson(const nlohmann::ordered_json& json) {
  Corrections out;
  if (find(json, "bpm"))
    out.tempo = Bpm(number(json, "bpm", kSlowestTempo.value, kFastestTempo.value, 120));
  if (find(json, "downbeatS")) out.downbeat = Seconds(number(json, "downbeatS", 0, 1e5, 0));
  out.key = keyFromName(text(json, "key"));
  const std::string kind = text(json, "kind");
  for (std::size_t k = 0; k < kSoundKinds; ++k)
    if (kind == nameOf(SoundKind(k))) out.kind = SoundKind(k);
  for (const auto& said : list(json, "hits", 500'000)) {
    HitCorrection hit{Seconds(number(said, "atS", 0, 1e6, 0)), {}};
    for (const auto& name : list(said, "hits", 8))
      for (HitClass each : {HitClass::Kick, HitClass::Snare, HitClass::Hat, HitClass::Other})
        if (name.is_string() && name.get<std::string>() == nameOf(each)) hit.hits.push_back(each);
    if (!hit.hits.empty()) out.hits.push_back(std::move(hit));
  }
  return out;
}

} // namespace tuvvo
