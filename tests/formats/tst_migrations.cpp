// Files of every schema so far, kept as they were written then: opened, and compared with what
// stands in them by their own words.
#include "base/files.h"
#include "formats/migrations.h"
#include "formats/project_json.h"
#include "support.h"

#include <QtTest>
#include <nlohmann/json.hpp>

using namespace tuvvo;
using namespace tuvvo::test;

using Json = nlohmann::ordered_json;

namespace {

std::string kept(const char* name) {
  const auto bytes = readFile(std::string(TUVVO_TEST_DIR) + "/data/projects/" + name, 1 << 20);
  return bytes ? *bytes : std::string();
}

/// All names of fields, wherever they stand.
void namesIn(const Json& json, std::set<std::string>& into) {
  if (json.is_object())
    for (const auto& [name, value] : json.items()) {
      into.insert(name);
      namesIn(value, into);
    }
  else if (json.is_array())
    for (const auto& each : json) namesIn(each, into);
}

ReadProject opened(const std::string& text) {
  auto read = projectFromText(text, "kept");
  if (!read) qFatal("%s", read.error().text().c_str());
  for (const auto& warning : read->warnings) qWarning("%s", warning.c_str());
  return std::move(read).value();
}

} // namespace

class TestMigrations : public QObject {
  Q_OBJECT

private slots:
  void everyFileIsUnderstoodWhole_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"schema-1-first.json", "schema-1-last.json"})
      QTest::newRow(name) << QString(name);
  }
  void everyFileIsUnderstoodWhole() {
    QFETCH(QString, name);
    const ReadProject read = opened(kept(qPrintable(name)));
    QVERIFY(read.warnings.empty()); // nothing was met that is not known
    QCOMPARE(read.schema, 1);
    const std::string again = projectToText(read.project, 1);
    const Json json = Json::parse(again);
    QCOMPARE(json["schema"].get<int>(), kProjectSchema);
    std::set<std::string> names;
    namesIn(json, names);
    for (const char* old :
         {"pins", "papers", "rights", "permission", "made", "pull", "leanMs", "loosenMs",
          "loosenLevel", "hushed", "resting", "school", "swing", "swingPairs", "beatsPerBar"})
      QVERIFY2(!names.contains(old), old);
    QCOMPARE(projectToText(opened(again).project, 1), again);
  }

  void theFirstProjectsComeBack() {
    const Project p = opened(kept("schema-1-first.json")).project;
    QCOMPARE(p.tempo.value, 85.0);
    QVERIFY(p.meter == (Meter{4, 4}));
    QCOMPARE(p.sources.size(), std::size_t(2));
    const Source& brass = *p.sources[0];
    QVERIFY(brass.provenance.recording == Permission::Asked);
    QCOMPARE(QString::fromStdString(brass.provenance.note),
             QString("letter to the ferry band, not answered yet"));
    QVERIFY(p.sources[1]->provenance.recording == Permission::Own);
    QCOMPARE(brass.cuts.size(), std::size_t(3));
    QCOMPARE(brass.cuts[1].start.value, std::int64_t(28828));
    // Their cuts' keys were called by numbers, which now make themselves.
    QVERIFY(p.keys[0].sound.cut != 0 && p.keys[0].name.empty());
    const auto& first = p.patterns[0]->lanes[0];
    QCOMPARE(first.feel.swing8, 58.0);
    QCOMPARE(first.feel.swing16, 50.0);
    QCOMPARE(first.feel.microTiming.value, -9.0);
    QCOMPARE(p.patterns[1]->lanes[0].feel.swing16, 62.0);
    QCOMPARE(p.patterns[1]->lanes[0].feel.swing8, 50.0);
    const Json raw = Json::parse(kept("schema-1-first.json"));
    for (std::size_t i = 0; i < p.patterns.size(); ++i)
      for (std::size_t k = 0; k < p.patterns[i]->lanes.size(); ++k) {
        const Json& hits = raw["patterns"][i]["lanes"][k]["pins"];
        const Lane& lane = p.patterns[i]->lanes[k];
        QCOMPARE(lane.hits.size(), hits.size());
        for (std::size_t h = 0; h < hits.size(); ++h) {
          QCOMPARE(lane.hits[h].at.value, hits[h]["at"].get<std::int64_t>());
          QCOMPARE(lane.hits[h].key, hits[h]["key"].get<Id>());
          QCOMPARE(lane.hits[h].velocity, hits[h]["velocity"].get<double>());
        }
      }
  }

  void theLastOfSchema1ComesBack() {
    const Project p = opened(kept("schema-1-last.json")).project;
    QCOMPARE(p.dismissedNotes, (std::set<std::string>{"levels:1", "tempo:2"}));
    QCOMPARE(p.parts[0].quantiseStrength, 0.35);
    QCOMPARE(p.sections[0].mutedParts, (std::vector<Id>{p.parts[0].id}));
    QVERIFY(p.sections[1].mutedParts.empty());
    const Lane& lane = p.patterns[0]->lanes[0];
    QCOMPARE(lane.feel.microTiming.value, -12.0);
    QCOMPARE(lane.feel.humanise.value, 9.0);
    QCOMPARE(lane.feel.humaniseLevel, 0.12);
    QCOMPARE(lane.feel.quantiseStrength, 0.6);
    QCOMPARE(lane.feel.grooveTiming, 0.8);
    QVERIFY(!lane.hits.empty());
    QCOMPARE(lane.hits[0].microTiming.value, 7.5);
    QCOMPARE(lane.hits[0].condition.every, 4);
    const Source& straightened = *p.sources[0];
    QCOMPARE(straightened.shape.markers.size(), std::size_t(2));
    QCOMPARE(straightened.shape.markers[1].at.value, 1.25);
    QVERIFY(straightened.provenance.recording == Permission::Asked);
    const Source& made = *p.sources[1];
    QVERIFY(made.recipe);
    QCOMPARE(made.recipe->shape.markers.size(), std::size_t(1));
    QCOMPARE(made.recipe->under.size(), std::size_t(1));
    QCOMPARE(made.recipe->under[0].shape.markers.size(), std::size_t(1));
    const auto* whole = made.recipe->as.treatments.at(0).as<treat::Speed>();
    QVERIFY(whole && whole->method == FitMethod::Repitch);
    const Key& key = p.keys[0];
    QCOMPARE(key.treatments.size(), treatmentTypes().size()); // one of each, in their order
    for (std::size_t i = 0; i < key.treatments.size(); ++i)
      QVERIFY(&typeOf(key.treatments[i]) == &treatmentTypes()[i]);
    QCOMPARE(*key.treatments[2].as<treat::Speed>(),
             (treat::Speed{treat::Speed::To::DoubleTime, 2, FitMethod::Respace}));
    QCOMPARE(*key.treatments[6].as<treat::Stutter>(),
             (treat::Stutter{0.125, 6, Decibels(-12), Semitones(7)}));
    QCOMPARE(*key.treatments[7].as<treat::Swell>(),
             (treat::Swell{1, treat::Swell::From::Decay, Seconds(3), treat::Swell::Then::Nothing}));
    QCOMPARE(*key.treatments[9].as<treat::Chop>(), (treat::Chop{0.25, 12, {2, 0, 1}}));
    QCOMPARE(*key.treatments[12].as<treat::Band>(),
             (treat::Band{treat::Band::Keep::Middle, Hertz(300), Hertz(4000)}));
    QVERIFY(!key.treatments[12].on);
  }

  /// What is not known stands where it stood, under its new list.
  void whatIsNotKnownSurvivesAMigration() {
    Json raw = Json::parse(kept("schema-1-last.json"));
    raw["patterns"][0]["lanes"][0]["pins"][0]["glow"] = true;
    raw["patterns"][0]["lanes"][0]["pins"].push_back({{"at", 5}, {"key", 4242}});
    raw["sources"][0]["papers"]["stamp"] = "blue";
    raw["patterns"][0]["lanes"][0]["feel"]["bounce"] = 3;
    const ReadProject read = opened(raw.dump());
    QVERIFY(!read.warnings.empty());
    const Json again = Json::parse(projectToText(read.project, 1));
    const Json& hits = again["patterns"][0]["lanes"][0]["hits"];
    QVERIFY(hits[0]["glow"].get<bool>());
    QCOMPARE(hits.back()["key"].get<int>(), 4242);
    QCOMPARE(again["sources"][0]["provenance"]["stamp"].get<std::string>(), std::string("blue"));
    QCOMPARE(again["patterns"][0]["lanes"][0]["feel"]["bounce"].get<int>(), 3);
  }

  void wildFilesOfSchema1AreNoTrouble() {
    const std::string whole = kept("schema-1-last.json");
    for (const char* word : {"pins", "feel", "papers", "made", "treatments", "resting", "shape"})
      for (const char* other : {"null", "7", "\"x\"", "[]", "{}", "[[1],{}]", "true"}) {
        std::string text = whole;
        const std::string name = '"' + std::string(word) + "\": ";
        const auto at = text.find(name);
        QVERIFY(at != std::string::npos);
        // Another value in front of the first one, under that name.
        text.insert(at, name + other + ", \"was\": ");
        text.erase(text.find(name, at + name.size()), name.size());
        const auto read = projectFromText(text, "wild");
        if (read) (void)projectToText(read->project, 1);
      }
  }

  void stepsAreTakenInOrderAndNewerFilesAreLeft() {
    static const std::array<Migration, 2> steps{
        [](Json& file) { file["way"] = file.value("way", "") + "1"; },
        [](Json& file) { file["way"] = file.value("way", "") + "2"; }};
    for (const auto& [schema, way] : {std::pair{1, "12"}, {2, "2"}, {3, ""}, {99, ""}}) {
      Json file{{"schema", schema}};
      QCOMPARE(migrate(file, steps), schema);
      QCOMPARE(file.value("way", std::string()), std::string(way));
    }
    Json none = Json::object();
    QCOMPARE(migrate(none, steps), 1);
    QCOMPARE(none["way"].get<std::string>(), std::string("12"));
  }

  void aFieldIsRenamedInItsPlace() {
    Json file = Json::parse(R"({"a":1,"b":[2],"c":3})");
    renameField(file, "b", "d");
    QCOMPARE(file.dump(), std::string(R"({"a":1,"d":[2],"c":3})"));
    renameField(file, "a", "c"); // there is one already: nothing is lost
    QCOMPARE(file.dump(), std::string(R"({"a":1,"d":[2],"c":3})"));
  }
};

QTEST_GUILESS_MAIN(TestMigrations)
#include "tst_migrations.moc"
