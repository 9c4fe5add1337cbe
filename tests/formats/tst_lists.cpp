// Lists in files have a longest; what is longer is not believed, and nothing is taken from it.
#include "formats/controllers_json.h"
#include "formats/kinds_of_files.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestLists : public QObject {
  Q_OBJECT

private slots:
  // A hearing with more of anything than there can be is none.
  void listsOfAHearingHaveALongest() {
    for (const auto& [place, most] : {std::pair{"/tempo/alternatives", 16},
                                      {"/key/alternatives", 24},
                                      {"/sections", 10'000},
                                      {"/faults", 100},
                                      {"/onsets/0/hits", 8},
                                      {"/onsets/0/sure", 4},
                                      {"/onsets/0/drums", 8},
                                      {"/onsets/0/levels", 4}}) {
      const auto read = [&, at = place](int count) {
        Json json = hearing();
        Json& list = json.at(Pointer(at));
        list = Json(std::size_t(count), list.at(0));
        const auto heard = analysisFromJson(json);
        return heard ? int(toJson(*heard).at(Pointer(at)).size()) : -1;
      };
      QCOMPARE(read(most), most);
      QCOMPARE(read(most + 1), -1);
    }
  }

  void sendsBeyondThoseThereAreAreLeft() {
    const auto read = [](std::size_t count) {
      Json json;
      json["sendsDb"] = Json(count, -6.0);
      return busAgain(json).value("sendsDb", Json::array());
    };
    QCOMPARE(read(4), Json({-6.0, -6.0, -6.0, -6.0}));
    QCOMPARE(read(5), read(4));
    QCOMPARE(read(64), read(4));
    QCOMPARE(read(65), Json::array()); // that is no list of sends
    QCOMPARE(read(1), Json({-6.0, -60.0, -60.0, -60.0}));
  }

  void listsOfProjectsHaveALongest() {
    struct Row {
      const char *kind, *place;
      std::size_t most;
    };
    for (const Row& row : {Row{"source", "/corrected/hits/0/hits", 8},
                           {"source", "/cutting/classes", 16},
                           {"key", "/treatments/0/order", kMostPieces},
                           {"project", "/sections/0/mutedParts", 1024},
                           {"project", "/dismissedNotes", 100'000}}) {
      const auto& kinds = kindsOfProjects();
      const auto kind = std::find_if(kinds.begin(), kinds.end(), [&](const Kind& one) {
        return std::string(one.name) == row.kind;
      });
      const auto again = [&](std::size_t count) {
        Json json = Json::parse(kind->text);
        Json& list = json.at(Pointer(row.place));
        list = count == 0 ? Json::array() : Json(count, list.at(0));
        return kind->again(json);
      };
      const Json none = again(0);
      QVERIFY2(again(row.most) != none, row.place);
      QVERIFY2(again(row.most + 1) == none, row.place);
    }
  }

  void listsOfControllersHaveALongest() {
    const Json one = Json::parse(R"({"format": "tuvvo controllers", "schema": 2, "controllers": [
        {"name": "pads", "notes": [{"note": 40, "row": "air", "column": 2}],
         "slides": [{"controller": 7, "slide": "key.level"}]}]})");
    const auto read = [&](const char* place, std::size_t count) {
      Json json = one;
      Json& list = json.at(Pointer(place));
      list = Json(count, list.at(0));
      auto controllers = *controllersFromText(json.dump(), "test");
      for (auto& [name, settings] : controllers) settings.extra = {};
      return controllers;
    };
    const auto all = read("/controllers", 1);
    QVERIFY(all.size() == 1 && all.begin()->second.notes.size() == 1);
    QVERIFY(all.begin()->second.slides.size() == 1);
    QVERIFY(read("/controllers", 256) == all);
    QVERIFY(read("/controllers", 257).empty());
    QVERIFY(read("/controllers/0/notes", 128) == all);
    QVERIFY(read("/controllers/0/notes", 129).begin()->second.notes.empty());
    QVERIFY(read("/controllers/0/slides", 128) == all);
    QVERIFY(read("/controllers/0/slides", 129).begin()->second.slides.empty());
  }
};

QTEST_APPLESS_MAIN(TestLists)
#include "tst_lists.moc"
