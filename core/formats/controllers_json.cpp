#include "formats/controllers_json.h"

#include "formats/json_names.h"
#include "formats/migrations.h"
#include "formats/old_slides.h"

namespace tuvvo {

using namespace json_read;

namespace {
constexpr std::array kLayouts{"percussion", "deck", "pitch"};
constexpr std::size_t kMostControllers = 256;
constexpr int kNoNumber = -1;
constexpr int kSchema = 2; ///< 1: slides by class and label

Json write(const std::string& name, const ControllerSettings& settings) {
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
  addRest(each, settings.extra);
  return each;
}

/// Slides get ids; before, they went by class and label.
void slidesById(Json& file) {
  const auto controllers = file.find("controllers");
  if (controllers == file.end() || !controllers->is_array()) return;
  for (auto& each : *controllers) {
    const auto slides = each.is_object() ? each.find("slides") : each.end();
    if (slides == each.end() || !slides->is_array()) continue;
    for (auto& entry : *slides)
      if (const auto slide = entry.is_object() ? entry.find("slide") : entry.end();
          slide != entry.end() && slide->is_string())
        *slide = slideFromOldName(slide->get<std::string>());
  }
}
constexpr std::array<Migration, 1> kSteps{slidesById};

} // namespace

std::string controllersToText(const Controllers& controllers) {
  Json out{{"format", "tuvvo controllers"}, {"schema", kSchema}, {"controllers", Json::array()}};
  for (const auto& [name, settings] : controllers)
    out["controllers"].push_back(write(name, settings));
  return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Controllers> controllersFromText(const std::string& bytes, const std::string& where) {
  try {
    Reading reading;
    Json json = parse(bytes);
    if (!json.is_object() || Fields(json, reading).text("format") != "tuvvo controllers")
      return Error{"This is no list of controllers", where, "Move it away; a new one is made."};
    migrate(json, kSteps);
    Fields file(json, reading);
    Controllers out;
    for (const auto& one : file.list("controllers", kMostControllers)) {
      Fields each(one, reading);
      ControllerSettings settings;
      settings.wanted = each.flag("wanted", true);
      settings.layout = each.choice<NoteLayout>("layout", kLayouts);
      settings.curve.softest = int(each.integer("softest", 1, 126, 1));
      settings.curve.hardest = int(each.integer("hardest", settings.curve.softest + 1, 127, 127));
      settings.curve.bend = each.number("bend", 0.25, 4, 1);
      settings.pressRolls = each.flag("pressRolls", true);
      settings.followClock = each.flag("followClock");
      for (const auto& entry : each.list("notes", 128)) {
        Fields note(entry, reading);
        const int number = int(note.integer("note", kNoNumber, 127, kNoNumber));
        if (number == kNoNumber) continue; // it says of no note where it plays
        settings.notes[number] = {note.choice<Row>("row", kRows),
                                  int(note.integer("column", 0, kColumns - 1, 0))};
      }
      for (const auto& entry : each.list("slides", 128)) {
        Fields slide(entry, reading);
        const int number = int(slide.integer("controller", kNoNumber, 127, kNoNumber));
        if (number != kNoNumber) settings.slides[number] = slide.text("slide");
      }
      const std::string name = each.text("name");
      settings.extra = each.rest([&] { return write(name, settings); });
      out[name] = std::move(settings);
    }
    return out;
  } catch (const Bad& bad) {
    return Error{"What controllers were taught cannot be read: " + bad.what, where,
                 "Move the file away; a new one is made."};
  }
}

} // namespace tuvvo
