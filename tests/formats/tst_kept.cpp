// What a file says and this version does not understand: opened with what is whole, kept as it is,
// written again; a thousand damaged projects.
#include "base/files.h"
#include "formats/bundle.h"
#include "formats/json_read.h"
#include "formats/project_json.h"
#include "formats/project_migrations.h"
#include "support.h"

#include <QtTest>
#include <nlohmann/json.hpp>

using namespace tuvvo;
using namespace tuvvo::test;

using Json = nlohmann::ordered_json;

namespace {

Json asItWas(const char* name) {
  const auto bytes = readFile(std::string(TUVVO_TEST_DIR) + "/fuzz/seeds/project/" + name, 1 << 20);
  return bytes ? Json::parse(*bytes) : Json();
}

/// By the names of today; tst_migrations compares files with what stood in them before.
Json broughtUp(Json json) {
  if (json.is_object()) {
    bringProjectUp(json);
    json["schema"] = kProjectSchema;
  }
  return json;
}

Json seed(const char* name) { return broughtUp(asItWas(name)); }

Json savedAgain(const Json& json, ReadProject* out = nullptr) {
  auto read = projectFromText(json.dump(), "x");
  if (!read) qFatal("%s", read.error().text().c_str());
  const Json again = Json::parse(projectToText(read->project, 7));
  if (out) *out = std::move(read).value();
  return again;
}

/// Every value of a file that is not in another, by where it stands; entries of lists by their
/// content, as what is set aside stands at a list's end.
QStringList lost(const Json& from, const Json& in, const QString& at = {}) {
  QStringList out;
  if (from.is_object() && in.is_object()) {
    for (const auto& [name, value] : from.items()) {
      if (at.isEmpty() && (name == "revision" || name == "schema" || name == "nextId")) continue;
      const auto found = in.find(name);
      const QString place = at + "/" + QString::fromStdString(name);
      const bool nothing = value.is_structured() && value.empty(); // as good as none
      if (found == in.end() && !nothing) out << place + " is gone";
      if (found != in.end()) out << lost(value, *found, place);
    }
  } else if (from.is_array() && in.is_array()) {
    std::vector<bool> taken(in.size(), false);
    for (std::size_t i = 0; i < from.size(); ++i) {
      bool found = false;
      for (std::size_t step = 0; step < in.size() && !found; ++step) {
        const std::size_t k = (i + step) % in.size();
        if (taken[k] || !lost(from[i], in[k], at + "/0").isEmpty()) continue;
        found = taken[k] = true;
      }
      const QString place = at + QString("/%1").arg(i);
      if (!found && i < in.size() && !lost(from[i], in[i], place).isEmpty())
        out << lost(from[i], in[i], place); // as far as it can be told which one it was
      else if (!found)
        out << place + " is gone";
    }
  } else if (from != in) {
    out << at + " has changed";
  }
  return out;
}

/// Calls `change` with every object of a file that is not inside a list of plain values.
void eachObject(Json& json, const std::function<void(Json&)>& change) {
  if (json.is_object())
    for (auto& [name, value] : json.items()) eachObject(value, change);
  if (json.is_array())
    for (auto& value : json) eachObject(value, change);
  if (json.is_object()) change(json);
}

std::vector<Json*> valuesIn(Json& json) {
  std::vector<Json*> out{&json};
  if (json.is_structured())
    for (auto& value : json)
      for (Json* inner : valuesIn(value)) out.push_back(inner);
  return out;
}

} // namespace

class TestKept : public QObject {
  Q_OBJECT

private slots:
  void aNameThatStandsTwiceCountsOnceInObjectsOfAnySize() {
    for (int fields : {3, 63, 64, 65, 500}) {
      std::string text = "{";
      for (int i = 0; i < fields; ++i) text += "\"f" + std::to_string(i) + "\":1,";
      text += "\"f1\":2,\"f" + std::to_string(fields - 1) + "\":3}";
      const auto json = json_read::parse(text);
      QCOMPARE(json.size(), std::size_t(fields));
      QCOMPARE(json["f1"], 2);
      QCOMPARE(json["f" + std::to_string(fields - 1)], 3);
      QCOMPARE(json["f0"], 1);
    }
  }

  void aSectionWithoutAPatternTakesNoNumber() {
    // Of two sections with one number the first has no pattern: the other is the one that is
    // meant, now and when the file was written again.
    Json json = seed("unknown-fields.json");
    auto& sections = json["sections"];
    Json there = sections[0], without = there;
    there["id"] = without["id"] = 900'000;
    there["name"] = "Turn";
    without["pattern"] = 800'000;
    sections = Json::array({without, there});
    ReadProject first, second;
    const Json once = savedAgain(json, &first), twice = savedAgain(once, &second);
    QCOMPARE(first.project.sections.size(), std::size_t(1));
    QCOMPARE(first.project.sections[0].name, std::string("Turn"));
    QVERIFY(first.project.sections == second.project.sections);
    QCOMPARE(twice, once);
    QCOMPARE(lost(json, once), QStringList());
  }

  void unknownFieldsOfEveryObjectSurvive() {
    Json json = seed("small.json");
    int objects = 0;
    eachObject(json, [&](Json& object) {
      object["fromTheFuture"] = {{"number", ++objects}, {"words", {"teal", nullptr}}};
    });
    QVERIFY(objects >= 27);
    ReadProject read;
    const Json again = savedAgain(json, &read);
    QVERIFY2(read.warnings.empty(), read.warnings.empty() ? "" : read.warnings[0].c_str());
    const QStringList gone = lost(json, again);
    QVERIFY2(gone.isEmpty(), qPrintable(gone.join("; ")));
    // And what is known beside them is understood.
    QCOMPARE(read.project.tempo.value, 92.0);
    QCOMPARE(read.project.patterns[0]->lanes[0].hits[0].roll.hits, 3);
  }

  void filesThatCameFromElsewhereLoseNothing_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("says");
    QTest::newRow("fields") << "unknown-fields.json"
                            << "";
    QTest::newRow("treatment") << "unknown-treatment.json"
                               << "the treatment \"warp\"";
    QTest::newRow("row") << "unknown-row.json"
                         << "the word \"ceiling\" for \"row\"";
  }
  void filesThatCameFromElsewhereLoseNothing() {
    QFETCH(QString, file);
    QFETCH(QString, says);
    const Json json = seed(qPrintable(file));
    ReadProject read;
    const QStringList gone = lost(json, savedAgain(json, &read));
    QVERIFY2(gone.isEmpty(), qPrintable(gone.join("; ")));
    QCOMPARE(read.warnings.empty(), says.isEmpty());
    if (!says.isEmpty())
      QVERIFY2(QString::fromStdString(read.warnings[0]).contains(says), read.warnings[0].c_str());
    QVERIFY(read.project.keys.size() >= 29); // the rest of it is open
  }

  void whatWasKeptSurvivesEditsOfItsNeighbours() {
    Json json = seed("small.json");
    json["keys"][0]["loop"]["fromTheFuture"] = 1;
    json["keys"][0]["treatments"].push_back({{"kind", "melt"}, {"heat", 9}});
    json["patterns"][0]["lanes"][0]["hits"].push_back({{"at", 5}, {"key", 99}, {"glow", true}});
    json["sources"][0]["provenance"]["recording"] = "lent";
    json["bpm"] = 1e30;
    ReadProject read;
    (void)savedAgain(json, &read);
    Project p = read.project;
    p.keys[0].loop.from = 0.3;
    p.keys[0].level = Decibels(-3);
    p.patterns[0] = [&] {
      auto copy = std::make_shared<Pattern>(*p.patterns[0]);
      copy->lanes[0].hits.pop_back();
      return copy;
    }();
    Json again = Json::parse(projectToText(p, 1));
    QCOMPARE(again["keys"][0]["loop"]["from"].get<double>(), 0.3);
    QCOMPARE(again["keys"][0]["loop"]["fromTheFuture"].get<int>(), 1);
    QCOMPARE(again["keys"][0]["treatments"][1]["heat"].get<int>(), 9);
    QCOMPARE(again["patterns"][0]["lanes"][0]["hits"].size(), std::size_t(2));
    QVERIFY(again["patterns"][0]["lanes"][0]["hits"][1]["glow"].get<bool>());
    QCOMPARE(again["sources"][0]["provenance"]["recording"].get<std::string>(),
             std::string("lent"));
    QCOMPARE(again["bpm"].get<double>(), 1e30); // nobody has changed it
    // What a person sets wins.
    p.tempo = Bpm(88);
    p = withSourceChanged(std::move(p), 1,
                          [](Source& s) { s.provenance.recording = Permission::Granted; });
    again = Json::parse(projectToText(p, 1));
    QCOMPARE(again["bpm"].get<double>(), 88.0);
    QCOMPARE(again["sources"][0]["provenance"]["recording"].get<std::string>(),
             std::string("granted"));
  }

  void anUnknownTreatmentStandsWhereItStoodAndIsNotHeard() {
    Json json = seed("small.json");
    auto& written = json["keys"][0]["treatments"];
    const Json unknown{{"kind", "melt"}, {"heat", 9}};
    written.insert(written.begin(), unknown);
    ReadProject read;
    const Json again = savedAgain(json, &read);
    const auto& treatments = read.project.keys[0].treatments;
    QCOMPARE(treatments.size(), std::size_t(2));
    QVERIFY(treatments[0].is<treat::Unknown>() && !treatments[0].on);
    QCOMPARE(again["keys"][0]["treatments"][0]["heat"].get<int>(), 9);
  }

  void numbersThatStandForUnknownThingsAreNotGivenAgain() {
    Json json = seed("small.json");
    json["keys"].push_back({{"id", 4000}, {"row", "ceiling"}});
    json["nextId"] = 10;
    ReadProject read;
    (void)savedAgain(json, &read);
    QVERIFY(read.project.nextId > 4000);
  }

  void thingsWithOneNumberAreOneThing() {
    Json json = seed("small.json");
    json["keys"].push_back(json["keys"][0]);
    json["keys"].push_back({{"row", "air"}});
    ReadProject read;
    const Json again = savedAgain(json, &read);
    QCOMPARE(read.project.keys.size(), std::size_t(1));
    QCOMPARE(again["keys"].size(), std::size_t(3));
  }

  void aThousandDamagedProjectsOpenOrAreRefusedByName() {
    const Json good = seed("small.json"), earlier = asItWas("small.json");
    Random random(20'261);
    const std::vector<Json> wild{nullptr,
                                 true,
                                 -1,
                                 1e300,
                                 -1e300,
                                 4294967296.0,
                                 "",
                                 "ceiling",
                                 "\u202e",
                                 0.5,
                                 Json::array(),
                                 Json::object(),
                                 INT64_MIN,
                                 UINT64_MAX,
                                 Json::array({1, "x", nullptr}),
                                 Json{{"id", 4}, {"x", 1}},
                                 "7/8",
                                 std::string(5000, 'x')};
    int opened = 0, refused = 0;
    for (int i = 0; i < 1000; ++i) {
      Json bad = i % 3 == 0 ? earlier : good;
      for (int k = 0; k < 1 + i % 4; ++k) {
        const auto values = valuesIn(bad);
        Json& value = *values[std::size_t(random.next() % values.size())];
        switch (random.next() % 5) {
        case 0: // another type
          value = wild[random.next() % wild.size()];
          break;
        case 1: // another range
          if (value.is_number()) value = value.get<double>() * 1e6 - 7;
          break;
        case 2: // twice
          if (value.is_array() && !value.empty()) value.push_back(value[0]);
          break;
        case 3: // a field, or a word, of the future
          if (value.is_object()) value["future" + std::to_string(i)] = wild[i % wild.size()];
          if (value.is_string()) value = value.get<std::string>() + " and more";
          break;
        default: // deep
          if (value.is_object()) {
            Json deep = 1;
            for (int d = 0; d < 3 + i % 40; ++d) deep = Json{{"deeper", deep}};
            value["deep"] = deep;
          }
        }
      }
      const auto read = projectFromText(bad.dump(), "damaged");
      if (!read) {
        ++refused;
        QVERIFY(!read.error().what.empty() && !read.error().remedy.empty());
        QVERIFY(read.error().text().find("damaged") != std::string::npos);
        continue;
      }
      ++opened;
      const Json again = Json::parse(projectToText(read->project, 7));
      const QStringList gone = lost(i % 3 == 0 ? broughtUp(bad) : bad, again);
      QVERIFY2(gone.isEmpty(), qPrintable(QString("%1: %2").arg(i).arg(gone.join("; "))));
    }
    qInfo("%d opened, %d refused", opened, refused);
    QVERIFY(opened > 800);
  }

  void aMillionHitsAndHundredsOfThousandsOfObjectsAreLinear() {
    // No times are asked for; the quadratic reader needed hours for this.
    std::string text = R"({"format":"tuvvo project","zz":[{})";
    for (int i = 0; i < 500'000; ++i) text += ",{}";
    text += "],\"wide\":{\"0\":0";
    for (int i = 1; i < 200'000; ++i) text += ",\"" + std::to_string(i) + "\":1";
    text += "}";
    for (int i = 0; i < 200'000; ++i) text += ",\"future" + std::to_string(i) + "\":1";
    const auto read = projectFromText(text + "}", "x");
    QVERIFY(read.ok());
    const Json again = json_read::parse(projectToText(read->project, 1));
    QVERIFY(again.size() > 200'000);
    QCOMPARE(again["zz"].size(), std::size_t(500'001));
    QCOMPARE(again["wide"].size(), std::size_t(200'000));
  }

  void whatIsTooLargeOrTooDeepIsRefusedBeforeItIsBuilt() {
    const std::string deep = "{\"format\":\"tuvvo project\",\"x\":" + std::string(5'000'000, '[');
    QVERIFY(!projectFromText(deep, "x").ok());
    JobContext cancelled;
    cancelled.cancel();
    std::string large = R"({"format":"tuvvo project","zz":[1)";
    for (int i = 0; i < 200'000; ++i) large += ",1";
    QVERIFY(!projectFromText(large + "]}", "x", &cancelled).ok());
  }

  void whatIsBeyondRepairNamesTheHistoryOnlyWhereThereIsOne() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "b.tuvvo");
    JobContext job;
    std::filesystem::create_directories(folder / "history");
    QVERIFY(writeFileAtomically(folder / "project.json", "{ half a").ok());
    auto opened = openProject(folder, job);
    QVERIFY(!opened.ok());
    QVERIFY2(opened.error().remedy.find("no earlier state") != std::string::npos,
             opened.error().remedy.c_str());
    QVERIFY(writeFileAtomically(folder / "history" / "project-3.json", "{}").ok());
    opened = openProject(folder, job);
    QVERIFY(!opened.ok() && opened.error().remedy.find("project-3.json") != std::string::npos);
  }

  void twoWritersKeepEachOthersStates() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "two.tuvvo");
    QVERIFY(saveProject(clickProject({0}).project, folder, {}).ok());
    JobContext job;
    const auto a = openProject(folder, job), b = openProject(folder, job);
    Project mine = a->project, theirs = b->project;
    mine.name = "A's first";
    const auto first = saveProject(mine, folder, a->state);
    theirs.name = "B's work";
    QVERIFY(saveProject(theirs, folder, b->state).ok());
    mine.name = "A's second";
    QVERIFY(saveProject(mine, folder, *first).ok());
    std::set<std::string> names;
    for (const auto& file : std::filesystem::directory_iterator(folder / "history"))
      names.insert(projectFromText(*readFile(file.path(), 1 << 24), "x")->project.name);
    for (const char* name : {"A's first", "B's work", "A's second"}) QVERIFY(names.contains(name));
    QCOMPARE(openProject(folder, job)->project.name, std::string("A's second"));
  }
};

QTEST_APPLESS_MAIN(TestKept)
#include "tst_kept.moc"
