#include "formats/controllers_json.h"

#include "formats/json_names.h"

namespace tuvvo {

using namespace json_read;

namespace {
constexpr std::array kLayouts{"percussion", "deck", "pitch"};
constexpr std::size_t kMostControllers = 256;
} // namespace

std::string controllersToText(const Controllers& controllers) {
  Json out{{"format", "tuvvo controllers"}, {"controllers", Json::array()}};
  for (const auto& [name, settings] : controllers) {
    Json each{{"name", name},
              {"wanted", settings.wanted},
              {"layout", nameIn(kLayouts, settings.layout)},
              {"softest", settings.curve.softest},
              {"hardest", settings.curve.hardest},
              {"bend", settings.curve.bend},
              {"pressRolls", settings.pressRolls},
              {"followClock", settings.followClock},
              {"notes", Json::array()},
              {"slides", Json::array()}};
    for (const auto& [note, spot] : settings.notes)
      each["notes"].push_back(
          {{"note", note}, {"row", nameIn(kRows, spot.row)}, {"column", spot.column}});
    for (const auto& [number, slide] : settings.slides)
      each["slides"].push_back({{"controller", number}, {"slide", slide}});
    out["controllers"].push_back(std::move(each));
  }
  return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Controllers> controllersFromText(const std::string& bytes, const std::string& where) {
  try {
    const Json json = parse(bytes);
    if (!json.is_object() || text(json, "format") != "tuvvo controllers")
      return Error{"This is no list of controllers", where, "Move it away; a new one is made."};
    Controllers out;
    for (const auto& each : list(json, "controllers", kMostControllers)) {
      ControllerSettings settings;
      settings.wanted = flag(each, "wanted", true);
      settings.layout = choice<NoteLayout>(each, "layout", kLayouts);
      settings.curve.softest = int(integer(each, "softest", 1, 126, 1));
      settings.curve.hardest = int(integer(each, "hardest", settings.curve.softest + 1, 127, 127));
      settings.curve.bend = number(each, "bend", 0.25, 4, 1);
      settings.pressRolls = flag(each, "pressRolls", true);
      settings.followClock = flag(each, "followClock");
      for (const auto& note : list(each, "notes", 128))
        settings.notes[int(integer(note, "note", 0, 127, 0))] = {
            choice<Row>(note, "row", kRows), int(integer(note, "column", 0, kColumns - 1, 0))};
      for (const auto& slide : list(each, "slides", 128))
        settings.slides[int(integer(slide, "controller", 0, 127, 0))] = text(slide, "slide");
      out[text(each, "name")] = std::move(settings);
    }
    return out;
  } catch (const Bad& bad) {
    return Error{"What controllers were taught cannot be read: " + bad.what, where,
                 "Move the file away; a new one is made."};
  }
}

} // namespace tuvvo
