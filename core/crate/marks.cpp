#include "crate/marks.h"

#include "base/guard.h"
#include "formats/json_read.h"
#include "formats/migrations.h"
#include "formats/provenance_json.h"

#include <taglib/fileref.h>
#include <taglib/tag.h>
#include <taglib/tpropertymap.h>

namespace tuvvo {

using namespace json_read;

namespace {

constexpr const char* kFormat = "tuvvo crate papers";
constexpr std::size_t kMostTags = 100;

Json head(const Marks& marks) {
  Json out = Json::object();
  if (marks.stars > 0) out["stars"] = marks.stars;
  if (!marks.tags.empty()) out["tags"] = marks.tags;
  if (marks.provenance != Provenance{}) out["provenance"] = tuvvo::toJson(marks.provenance);
  if (marks.corrections != Corrections{}) out["corrected"] = tuvvo::toJson(marks.corrections);
  return out;
}

Json toJson(const Marks& marks) {
  Json out = head(marks);
  addRest(out, marks.extra);
  return out;
}

Marks readMarks(Fields& f) {
  Marks marks;
  marks.stars = int(f.integer("stars", 0, 5, 0));
  for (const auto& tag : f.list("tags", kMostTags))
    if (tag.is_string())
      marks.tags.emplace_back(beginningOf(tag.get_ref<const std::string&>(), 200));
  f.inside("provenance",
           [&](Fields& provenance) { marks.provenance = readProvenance(provenance); });
  f.inside("corrected", [&](Fields& said) { marks.corrections = readCorrections(said); });
  return marks;
}

void marksFrom1(Json& marks) {
  renameField(marks, "papers", "provenance");
  inside(marks, "provenance", provenanceFrom1);
}

void exportFrom1(Json& file) { eachIn(file, "sounds", marksFrom1); }
constexpr std::array<Migration, kProvenanceSchema - 1> kSteps{exportFrom1};

std::string tagText(const TagLib::String& text) {
  std::string out = text.stripWhiteSpace().to8Bit(true);
  return std::string(beginningOf(out, 1000));
}

} // namespace

std::string marksToText(const Marks& marks) {
  return toJson(marks).dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::optional<Marks> marksFromText(const std::string& text) {
  try {
    const Json json = parse(text);
    Reading reading;
    Fields f(json, reading);
    Marks marks = readMarks(f);
    marks.extra = f.rest([&] { return head(marks); });
    return marks;
  } catch (const Bad&) {
    return std::nullopt;
  }
}

std::string marksTextFrom1(const std::string& text) {
  try {
    Json json = parse(text);
    marksFrom1(json);
    return json.dump(-1, ' ', false, Json::error_handler_t::replace);
  } catch (const Bad&) {
    return text;
  }
}

std::string exportText(const CrateExport& all) {
  Json out{{"format", kFormat}, {"schema", kProvenanceSchema}, {"folders", all.folders}};
  Json searches = Json::object();
  for (const auto& [name, text] : all.searches) append(searches, name, text);
  out["searches"] = std::move(searches);
  Json sounds = Json::array();
  for (const auto& [hash, marks] : all.marks) {
    Json one{{"hash", hash}};
    if (const auto name = all.names.find(hash); name != all.names.end()) one["name"] = name->second;
    one.update(toJson(marks));
    sounds.push_back(std::move(one));
  }
  out["sounds"] = std::move(sounds);
  addRest(out, all.extra);
  return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<ReadExport> exportFromText(const std::string& bytes, const std::string& where) {
  const auto bad = [&](const std::string& why) {
    return Error{"What is recorded of the crate's sounds cannot be read: " + why, where,
                 "Put a good copy in its place, and Tuvvo reads it at the next start."};
  };
  return guarded(
      "Reading what is recorded of the crate's sounds", where, [&]() -> Result<ReadExport> {
        try {
          ReadExport read;
          Json json = parse(bytes);
          Reading reading;
          if (!json.is_object() || Fields(json, reading).text("format") != kFormat)
            return bad("they are something else");
          migrate(json, kSteps);
          Fields f(json, reading);
          (void)f.find("format");
          read.schema = int(f.integer("schema", 1, 1'000'000, 1));
          for (const auto& folder : f.list("folders", 100'000))
            if (folder.is_string()) read.all.folders.push_back(folder.get<std::string>());
          if (const Json* searches = f.find("searches"); searches && searches->is_object())
            for (const auto& [name, words] : searches->items())
              if (words.is_string()) read.all.searches[name] = words.get<std::string>();
          f.entries("sounds", 2'000'000, [&](const Json& one) {
            Fields sound(one, reading);
            const std::string hash = sound.text("hash");
            if (hash.size() != 32) throw Bad{"a sound without a proper hash"};
            if (read.all.marks.contains(hash)) throw Bad{"a sound that is there twice"};
            const std::string name = sound.text("name");
            Marks marks = readMarks(sound);
            marks.extra = sound.rest([&] {
              Json written{{"hash", hash}};
              if (!name.empty()) written["name"] = name;
              written.update(head(marks));
              return written;
            });
            read.all.marks[hash] = std::move(marks);
            if (!name.empty()) read.all.names[hash] = name;
          });
          f.older("schema");
          read.all.extra = f.rest([&] {
            Json written{{"format", kFormat}, {"folders", read.all.folders}};
            Json searches = Json::object();
            for (const auto& [name, text] : read.all.searches) append(searches, name, text);
            written["searches"] = std::move(searches);
            return written;
          });
          if (reading.any()) read.notKnown = reading.text();
          return read;
        } catch (const Bad& trouble) {
          return bad(trouble.what);
        }
      });
}

std::string extraText(const Extra& extra) {
  Json out = Json::array();
  for (const auto& field : extra.fields())
    out.push_back({{"path", field.path},
                   {"text", field.text},
                   {"taken", field.taken},
                   {"entries", field.entries}});
  return out.dump(-1, ' ', false, Json::error_handler_t::replace);
}

Extra extraFromText(const std::string& text) {
  std::vector<Extra::Field> out;
  try {
    const Json json = parse(text);
    Reading reading;
    if (!json.is_array()) return {};
    for (const auto& one : json) {
      Fields f(one, reading);
      constexpr std::size_t all = std::size_t(-1);
      out.push_back({f.text("path", {}, all), f.text("text", {}, all), f.text("taken", {}, all),
                     f.flag("entries")});
    }
  } catch (const Bad&) {
    return {}; // the file itself is kept aside where it could not be read whole
  }
  return Extra(std::move(out));
}

Provenance provenanceFromTags(const std::filesystem::path& path) {
  Provenance provenance;
  const TagLib::FileRef file(path.c_str(), false);
  if (file.isNull() || !file.tag()) return provenance;
  const TagLib::Tag& tag = *file.tag();
  provenance.title = tagText(tag.title());
  provenance.maker = tagText(tag.artist());
  provenance.from = tagText(tag.album());
  if (tag.year() > 0 && tag.year() < 10000) provenance.when = std::to_string(tag.year());
  provenance.note = tagText(tag.comment());
  const auto more = tag.properties();
  if (more.contains("COPYRIGHT") && !more["COPYRIGHT"].isEmpty()) {
    const std::string owner = tagText(more["COPYRIGHT"].front());
    if (!owner.empty()) provenance.note += (provenance.note.empty() ? "" : " · ") + owner;
  }
  return provenance;
}

} // namespace tuvvo
