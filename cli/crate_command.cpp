#include "arguments.h"
#include "base/convert.h"
#include "commands.h"
#include "crate/scanner.h"
#include "cut/fit.h"
#include "telling.h"

#include <cmath>
#include <sstream>

namespace tuvvo::cli {

namespace fs = std::filesystem;

namespace {

fs::path crateFolder(const Arguments& arguments) {
  if (const auto given = arguments.text("--crate")) return *given;
  if (const char* data = std::getenv("XDG_DATA_HOME"); data && *data)
    return fs::path(data) / "tuvvo" / "crate";
  const char* home = std::getenv("HOME");
  return fs::path(home ? home : ".") / ".local" / "share" / "tuvvo" / "crate";
}

int scan(const Arguments& arguments, Crate& crate) {
  std::vector<fs::path> folders;
  for (std::size_t i = 1; i < arguments.words().size(); ++i) {
    std::error_code code;
    const fs::path folder = fs::canonical(arguments.words()[i], code);
    if (code || !fs::is_directory(folder, code))
      return failed({"There is no such folder", arguments.words()[i], "Check the name."});
    if (auto added = crate.addFolder(folder.string()); !added) return failed(added.error());
    folders.push_back(folder);
  }
  if (folders.empty()) {
    auto known = crate.folders();
    if (!known) return failed(known.error());
    folders.assign(known->begin(), known->end());
  }
  if (folders.empty()) throw WrongUse{"a folder is needed"};
  Scanner scanner(crate);
  scanner.scan(folders);
  scanner.wait();
  const auto done = scanner.progress();
  if (!done.trouble.empty()) std::fprintf(stderr, "tuvvo-cli: %s\n", shown(done.trouble).c_str());
  if (auto written = crate.writeProvenance(); !written) return failed(written.error());
  const auto bad = crate.unreadable();
  if (!bad) return failed(bad.error());
  for (const auto& [path, why] : bad->some)
    std::fprintf(stderr, "tuvvo-cli: %s: %s\n", shown(path).c_str(), shown(why).c_str());
  if (arguments.has("--json"))
    show({{"seen", done.seen},
          {"heard", done.heard},
          {"unreadable", done.unreadable},
          {"beingWritten", done.settling}});
  else
    std::printf("%d sound files, %d heard now, %d could not be read, %d being written\n", done.seen,
                done.heard, done.unreadable, done.settling);
  return done.trouble.empty() && bad->count == 0 ? 0 : 1;
}

CrateOrder orderFrom(const std::string& name) {
  const std::pair<const char*, CrateOrder> orders[] = {
      {"reach", CrateOrder::Reach}, {"name", CrateOrder::Name},     {"newest", CrateOrder::Newest},
      {"tempo", CrateOrder::Tempo}, {"length", CrateOrder::Length}, {"stars", CrateOrder::Stars}};
  for (const auto& [word, order] : orders)
    if (name == word) return order;
  throw WrongUse{"--order takes reach, name, newest, tempo, length or stars"};
}

/// What the source of a name is like.
Result<Likeness> likenessOf(Crate& crate, const std::string& name) {
  Query query;
  std::istringstream words(name);
  for (std::string word; words >> word;) query.words.push_back(word);
  const auto found = crate.find(query, CrateOrder::Name, {});
  if (!found) return found.error();
  for (const CrateId id : found->ids) {
    const auto item = crate.item(id);
    if (!item) return item.error();
    if (!*item || (*item)->source.name != name || !(*item)->source.heard) continue;
    if (auto like = tuvvo::likenessOf(*(*item)->source.heard)) return *like;
  }
  return Error{"The crate knows of nothing what it is like by this name", name,
               "Check the name, and scan its folder again."};
}

int find(const Arguments& arguments, Crate& crate) {
  std::string words;
  for (std::size_t i = 1; i < arguments.words().size(); ++i) words += arguments.words()[i] + ' ';
  BeatNow beat;
  const auto bpm = arguments.number("--bpm", 20, 400);
  if (bpm) beat.tempo = Bpm(*bpm);
  if (const auto key = arguments.text("--key")) {
    beat.key = keyFromName(*key);
    if (!beat.key) throw WrongUse{"\"" + *key + "\" is not a key; write C, F#m, Bb"};
  }
  const bool forBeat = bpm || beat.key;
  const CrateOrder order =
      orderFrom(arguments.text("--order").value_or(forBeat ? "reach" : "name"));
  const auto limit = toWhole<std::size_t>(arguments.number("--limit", 1, 1e6).value_or(50));
  Query query = readQuery(words);
  if (const auto name = arguments.text("--like")) {
    auto like = likenessOf(crate, *name);
    if (!like) return failed(like.error());
    query.like = *like;
    query.likeThis = true;
  } else if (query.likeThis) {
    throw WrongUse{"say which one with --like NAME"};
  }
  const auto found = crate.find(query, order, beat);
  if (!found) return failed(found.error());
  Json all = Json::array();
  for (std::size_t i = 0; i < std::min(limit, found->ids.size()); ++i) {
    const auto row = crate.row(found->ids[i]);
    if (!row) return failed(row.error());
    if (!*row) continue;
    const CrateRow& r = **row;
    const double reach = crate.reachOf(r.id, beat);
    all.push_back({{"file", r.path},
                   {"name", r.name},
                   {"kind", r.kind ? Json(nameOf(*r.kind)) : Json(nullptr)},
                   {"durationS", r.duration.value},
                   {"bpm", r.tempo ? Json(r.tempo->value) : Json(nullptr)},
                   {"bars", r.bars > 0 ? Json(r.bars) : Json(nullptr)},
                   {"key", r.key ? Json(nameOf(*r.key)) : Json(nullptr)},
                   {"tuningCents", r.tuning.value},
                   {"stars", r.stars},
                   {"missing", r.missing},
                   {"reach", forBeat && std::isfinite(reach) ? Json(reach) : Json(nullptr)}});
    if (!arguments.has("--json"))
      std::printf("%-28s %-15s %8s %-4s %s\n", shown(r.name).c_str(),
                  r.kind ? std::string(nameOf(*r.kind)).c_str() : "not heard yet",
                  r.tempo ? std::to_string(r.tempo->value).substr(0, 6).c_str() : "-",
                  r.key ? nameOf(*r.key).c_str() : "-", shown(r.path).c_str());
  }
  if (arguments.has("--json")) show(all);
  if (found->ids.size() > limit)
    std::fprintf(stderr, "tuvvo-cli: %zu more; ask for them with --limit\n",
                 found->ids.size() - limit);
  return 0;
}

} // namespace

int runCrate(const std::vector<std::string>& words) {
  const Arguments arguments(words, {"--crate", "--bpm", "--key", "--order", "--limit", "--like"},
                            {"--json"});
  const std::string what = arguments.words().empty() ? "" : arguments.words()[0];
  if (what != "scan" && what != "find") throw WrongUse{"say scan or find"};
  auto opened = Crate::open(crateFolder(arguments));
  if (!opened) return failed(opened.error());
  for (const auto& warning : opened->warnings)
    std::fprintf(stderr, "tuvvo-cli: %s\n", shown(warning).c_str());
  return what == "scan" ? scan(arguments, *opened->crate) : find(arguments, *opened->crate);
}

} // namespace tuvvo::cli
