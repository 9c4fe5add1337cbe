#include "formats/shipped.h"

#include "audio/decode.h"
#include "base/files.h"
#include "formats/bundle.h"
#include "formats/project_json.h"
#include "model/edits.h"

#include <algorithm>
#include <cstdlib>
#include <map>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

/// Where each drum of the kit lies on the deck, by the number its file begins with.
struct KitPlace {
  Row row;
  int column;
  double levelDb;
  int choke;
};
constexpr std::array<KitPlace, 20> kKitPlaces{{
    {Row::Floor, 0, -4, 0}, {Row::Floor, 1, -6, 0}, {Row::Floor, 2, -5, 0}, {Row::Floor, 3, -7, 0},
    {Row::Floor, 4, -7, 4}, {Row::Floor, 5, -7, 4}, {Row::Body, 0, -7, 0},  {Row::Body, 1, -8, 0},
    {Row::Body, 2, -10, 0}, {Row::Body, 3, -10, 0}, {Row::Body, 4, -11, 0}, {Row::Body, 5, -11, 0},
    {Row::Body, 6, -12, 0}, {Row::Air, 0, -14, 3},  {Row::Air, 1, -15, 3},  {Row::Air, 2, -15, 3},
    {Row::Air, 3, -17, 0},  {Row::Air, 4, -17, 0},  {Row::Air, 5, -17, 0},  {Row::Air, 6, -15, 0},
}};

std::vector<fs::path> soundsIn(const fs::path& folder) {
  std::vector<fs::path> paths;
  std::error_code code;
  for (const auto& entry : fs::directory_iterator(folder, code))
    if (entry.path().extension() == ".flac") paths.push_back(entry.path());
  std::sort(paths.begin(), paths.end());
  return paths;
}

} // namespace

fs::path dataFolder() {
  if (const char* given = std::getenv("TUVVO_DATA")) return given;
  std::error_code code;
  const fs::path program = fs::read_symlink("/proc/self/exe", code);
  fs::path installed = program.parent_path() / ".." / "share" / "tuvvo";
  if (!code && fs::is_directory(installed, code)) return installed;
  return TUVVO_SOURCE_DATA;
}

Provenance shippedProvenance(const std::string& title) {
  Provenance provenance;
  provenance.title = title;
  provenance.maker = "the makers of Tuvvo";
  provenance.from = "ships with Tuvvo";
  provenance.recording = provenance.composition = Permission::Own;
  return provenance;
}

NewProject newProject(const fs::path& data, JobContext& job) {
  NewProject out;
  Project& p = out.project;
  p.name = "Untitled";
  const auto paths = soundsIn(data / "kit");
  if (paths.size() < kKitPlaces.size())
    out.warnings.push_back("The drums that ship were not found in " + (data / "kit").string() +
                           ". Build Tuvvo again, or put them back.");
  for (std::size_t i = 0; i < std::min(paths.size(), kKitPlaces.size()); ++i) {
    auto decoded = decodeFile(paths[i], job);
    if (!decoded) {
      out.warnings.push_back(decoded.error().text());
      continue;
    }
    Source source;
    source.name = paths[i].stem().string().substr(3);
    source.origin = "ships with Tuvvo";
    source.sound = decoded->sound;
    source.hash = source.sound->hash();
    source.provenance = shippedProvenance(source.name);
    source.heard = readHearing(fs::path(paths[i]).replace_extension(".heard.json"));
    source.kit = true;
    Id id = 0, key = 0;
    const KitPlace& place = kKitPlaces[i];
    const std::string name = source.name;
    p = withSource(std::move(p), std::move(source), &id);
    p = withKeySound(std::move(p), place.row, place.column, 0, {id, 0}, name, &key);
    p = withKeyChanged(std::move(p), key, [&](Key& k) {
      k.level = Decibels(place.levelDb);
      k.choke = place.choke;
      k.gate = place.choke == 4; // the basses are held
      if (k.gate) k.envelope.release = Milliseconds(90);
    });
  }
  Pattern pattern;
  pattern.name = "A";
  Id patternId = 0;
  p = withPattern(std::move(p), pattern, &patternId);
  Section section;
  section.name = "Start";
  section.pattern = patternId;
  p = withSection(std::move(p), section, 0);
  return out;
}

Result<Project> shippedDemo(const fs::path& data, JobContext& job) {
  const fs::path file = data / "demo" / "salt quay.json";
  auto bytes = readFile(file, 16u << 20);
  if (!bytes) return bytes.error();
  auto read = projectFromText(*bytes, file.string());
  if (!read) return read.error();
  struct Shipped {
    SoundPtr sound;
    std::optional<Analysis> heard;
  };
  std::map<std::string, Shipped> sounds;
  for (const char* folder : {"kit", "demo"})
    for (const auto& path : soundsIn(data / folder)) {
      auto decoded = decodeFile(path, job);
      if (!decoded) return decoded.error();
      sounds[decoded->sound->hash()] = {
          decoded->sound, readHearing(fs::path(path).replace_extension(".heard.json"))};
    }
  Project project = std::move(read).value().project;
  for (auto& source : project.sources) {
    const auto found = sounds.find(source->hash);
    if (found == sounds.end())
      return Error{"A sound of the demonstration is missing", source->name,
                   "Build Tuvvo again, or put it back."};
    auto copy = std::make_shared<Source>(*source);
    copy->sound = found->second.sound;
    copy->heard = found->second.heard;
    source = std::move(copy);
  }
  return project;
}

} // namespace tuvvo
