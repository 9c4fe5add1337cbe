#include "crate/marks.h"

#include "base/files.h"
#include "formats/json_read.h"
#include "formats/papers_json.h"

#include <taglib/fileref.h>
#include <taglib/tag.h>
#include <taglib/tpropertymap.h>

namespace tuvvo {

using namespace json_read;

namespace {

constexpr std::uint64_t kMostBytes = 512u << 20;
constexpr const char* kFormat = "tuvvo crate papers";
constexpr std::size_t kMostTags = 100;

Json toJson(const Marks& marks) {
  Json out = Json::object();
  if (marks.stars > 0) out["stars"] = marks.stars;
  if (!marks.tags.empty()) out["tags"] = marks.tags;
  if (marks.papers != Papers{}) out["papers"] = tuvvo::toJson(marks.papers);
  if (marks.corrections != Corrections{}) out["corrected"] = tuvvo::toJson(marks.corrections);
  return out;
}

Marks marksFrom(const Json& json) {
  Marks marks;
  marks.stars = int(integer(json, "stars", 0, 5, 0));
  for (const auto& tag : list(json, "tags", kMostTags))
    if (tag.is_string()) marks.tags.push_back(tag.get<std::string>().substr(0, 200));
  if (const Json* papers = find(json, "papers")) marks.papers = papersFromJson(*papers);
  if (const Json* corrected = find(json, "corrected"))
    marks.corrections = correctionsFromJson(*corrected);
  return marks;
}

std::string tagText(const TagLib::String& text) {
  std::string out = text.stripWhiteSpace().to8Bit(true);
  if (out.size() > 1000) { // not in the middle of a letter
    std::size_t end = 1000;
    while (end > 0 && (out[end] & 0xc0) == 0x80) --end;
    out.resize(end);
  }
  return out;
}

} // namespace

std::string marksToText(const Marks& marks) {
  return toJson(marks).dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::optional<Marks> marksFromText(const std::string& text) {
  try {
    return marksFrom(parse(text));
  } catch (const Bad&) {
    return std::nullopt;
  }
}

Result<void> writeExport(const std::filesystem::path& path, const CrateExport& all) {
  Json out{{"format", kFormat}, {"schema", 1}, {"folders", all.folders}};
  out["searches"] = Json::object();
  for (const auto& [name, text] : all.searches) out["searches"][name] = text;
  out["sounds"] = Json::array();
  for (const auto& [hash, marks] : all.marks) {
    Json one{{"hash", hash}};
    if (const auto name = all.names.find(hash); name != all.names.end()) one["name"] = name->second;
    one.update(toJson(marks));
    out["sounds"].push_back(std::move(one));
  }
  return writeFileAtomically(path, out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n");
}

Result<ReadExport> readExport(const std::filesystem::path& path) {
  std::error_code code;
  ReadExport read;
  if (!std::filesystem::exists(path, code)) return read;
  auto bytes = readFile(path, kMostBytes);
  if (!bytes) return bytes.error();
  try {
    const Json json = parse(*bytes);
    if (text(json, "format") != kFormat)
      return Error{"This is not an export of a crate's papers", path.string(),
                   "Put the right one back, or remove it."};
    for (const auto& folder : list(json, "folders", 10000))
      if (folder.is_string()) read.all.folders.push_back(folder.get<std::string>());
    if (const Json* searches = find(json, "searches"); searches && searches->is_object())
      for (const auto& [name, words] : searches->items())
        if (words.is_string()) read.all.searches[name] = words.get<std::string>();
    for (const auto& one : list(json, "sounds", 2'000'000)) try {
        const std::string hash = text(one, "hash");
        if (hash.size() != 32) throw Bad{"no hash"};
        read.all.marks[hash] = marksFrom(one);
        read.all.names[hash] = text(one, "name");
      } catch (const Bad&) {
        ++read.damaged;
      }
  } catch (const Bad& bad) {
    return Error{"The export of the crate's papers cannot be read: " + bad.what, path.string(),
                 "Put an older copy back."};
  }
  return read;
}

Papers papersFromTags(const std::filesystem::path& path) {
  Papers papers;
  const TagLib::FileRef file(path.c_str(), false);
  if (file.isNull() || !file.tag()) return papers;
  const TagLib::Tag& tag = *file.tag();
  papers.title = tagText(tag.title());
  papers.maker = tagText(tag.artist());
  papers.from = tagText(tag.album());
  if (tag.year() > 0 && tag.year() < 10000) papers.when = std::to_string(tag.year());
  papers.note = tagText(tag.comment());
  const auto more = tag.properties();
  if (more.contains("COPYRIGHT") && !more["COPYRIGHT"].isEmpty()) {
    const std::string owner = tagText(more["COPYRIGHT"].front());
    if (!owner.empty()) papers.note += (papers.note.empty() ? "" : " · ") + owner;
  }
  return papers;
}

} // namespace tuvvo
