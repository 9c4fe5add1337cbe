#include "crate/service.h"
#include "base/text.h"

#include "base/files.h"
#include "crate/facet.h"
#include "formats/bundle.h"
#include "formats/json_read.h"
#include "formats/provenance_json.h"

#include <algorithm>

namespace tuvvo {

namespace fs = std::filesystem;
using namespace json_read;

namespace {

constexpr std::uint64_t kMostBytes = 1u << 20;
constexpr std::size_t kMostItems = 10'000;

ServiceItem itemFrom(const Json& json, const fs::path& folder, Reading& reading) {
  Fields f(json, reading);
  ServiceItem item;
  item.id = f.text("id");
  item.title = f.text("title");
  const std::string file = f.text("file");
  if (item.id.empty() || item.title.empty()) throw Bad{"an entry without a name"};
  if (file.empty() || file.find("..") != std::string::npos || file[0] == '/')
    throw Bad{"an entry that points outside its folder"};
  item.file = folder / file;
  for (const auto& tag : f.list("tags", 50))
    if (tag.is_string()) item.tags.push_back(tag.get<std::string>());
  const std::string kind = f.text("kind");
  for (std::size_t k = 0; k < kSoundKinds; ++k)
    if (kind == nameOf(SoundKind(k))) item.kind = SoundKind(k);
  item.duration = Seconds(f.number("durationS", 0, 1e6, 0));
  if (f.find("bpm")) item.tempo = Bpm(f.number("bpm", 20, 400, 120));
  item.key = keyFromName(f.text("key"));
  item.bars = int(f.integer("bars", 0, 1024, 0));
  f.inside("provenance", [&](Fields& provenance) { item.provenance = readProvenance(provenance); });
  return item;
}

fs::path hearingOf(const ServiceItem& item) {
  return fs::path(item.file).replace_extension(".heard.json");
}

/// A word of the text begins so.
bool beginsIn(const std::string& text, const std::string& beginning) {
  for (auto at = text.find(beginning); at != std::string::npos; at = text.find(beginning, at + 1))
    if (at == 0 || text[at - 1] == ' ') return true;
  return false;
}

bool answersToWords(const Query& q, const ServiceItem& item) {
  std::string words = item.title;
  for (const auto& tag : item.tags) words += ' ' + tag;
  words = lowerCase(words);
  for (const auto& word : q.words)
    if (!beginsIn(words, lowerCase(word))) return false;
  return std::all_of(q.tags.begin(), q.tags.end(), [&](const std::string& wanted) {
    return std::any_of(item.tags.begin(), item.tags.end(),
                       [&](const std::string& tag) { return lowerCase(tag) == lowerCase(wanted); });
  });
}

Facet facetOf(const ServiceItem& item) {
  Facet facet;
  facet.tempo = item.tempo ? float(item.tempo->value) : 0;
  facet.seconds = float(item.duration.value);
  facet.bars = item.bars;
  if (item.key) facet.key = std::int8_t(item.key->tonic + (item.key->minor ? 12 : 0));
  facet.kind = std::int8_t(item.kind);
  facet.heard = facet.steady = true;
  facet.exact = item.bars > 0;
  facet.cleared = cleared(item.provenance);
  facet.parts = item.parts;
  facet.likeness = item.likeness;
  facet.copies = 1;
  return facet;
}

} // namespace

Result<SampleService> SampleService::open(const fs::path& folder) {
  const fs::path path = folder / "catalogue.json";
  auto bytes = readFile(path, kMostBytes);
  if (!bytes) return bytes.error();
  SampleService service;
  try {
    const Json json = parse(*bytes);
    std::error_code code;
    Reading reading;
    Fields f(json, reading);
    for (const auto& one : f.list("items", kMostItems)) try {
        ServiceItem item = itemFrom(one, folder, reading);
        if (!fs::is_regular_file(item.file, code)) continue;
        if (const auto heard = readHearing(hearingOf(item))) {
          item.parts = partsOf(*heard);
          item.likeness = likenessOf(*heard);
        }
        service.m_items.push_back(std::move(item));
      } catch (const Bad&) {
        // One entry less; the others are good.
      }
  } catch (const Bad& bad) {
    return Error{"The simulated service's catalogue cannot be read: " + bad.what, path.string(),
                 "Build Tuvvo again, or put it back."};
  }
  return service;
}

std::vector<std::size_t> SampleService::find(const Query& query, const BeatNow& beat) const {
  std::vector<std::pair<float, std::size_t>> found;
  const FacetFilter filter(query, beat);
  for (std::size_t i = 0; i < m_items.size() && !query.chord; ++i) { // it tells of no chords
    const Facet facet = facetOf(m_items[i]);
    if (answersToWords(query, m_items[i]) && filter.takes(facet))
      found.emplace_back(query.likeThis && query.like && facet.likeness
                             ? unlikeness(*facet.likeness, *query.like)
                             : reachOf(facet, beat),
                         i);
  }
  std::sort(found.begin(), found.end());
  std::vector<std::size_t> out;
  for (const auto& [reach, place] : found) out.push_back(place);
  return out;
}

Source SampleService::sourceOf(std::size_t place) const {
  const ServiceItem& item = m_items[place];
  Source source;
  source.name = item.title;
  source.origin = item.file.string();
  source.provenance = item.provenance;
  source.heard = readHearing(hearingOf(item));
  return source;
}

Result<fs::path> SampleService::get(std::size_t place, const fs::path& folder) const {
  const ServiceItem& item = m_items[place];
  std::error_code code;
  fs::create_directories(folder, code);
  const fs::path target = folder / (item.title + item.file.extension().string());
  if (fs::exists(target, code)) return target;
  auto bytes = readFile(item.file, 256u << 20);
  if (!bytes) return bytes.error();
  if (auto written = writeFileAtomically(target, *bytes); !written) return written.error();
  return target;
}

} // namespace tuvvo
