// What is said of sounds stays, whatever becomes of the crate and of its export.
#include "base/files.h"
#include "crate/database.h"
#include "home.h"

#include <QTest>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace tuvvo;
using namespace tuvvo::test;
namespace fs = std::filesystem;

namespace {

/// As crates were before the fourth schema.
void withoutParts(Database& database) {
  database.run("ALTER TABLE source DROP COLUMN parts");
  database.run("ALTER TABLE source DROP COLUMN likeness");
}

} // namespace

class TestCrateKept : public QObject {
  Q_OBJECT
private slots:
  void aDamagedCrateIsBuiltAgainWithItsProvenance_data() {
    QTest::addColumn<int>("damage");
    QTest::newRow("overwritten") << 0;
    QTest::newRow("cut short") << 1;
    QTest::newRow("a page of noise") << 2;
    QTest::newRow("removed") << 3;
  }
  void aDamagedCrateIsBuiltAgainWithItsProvenance() {
    QFETCH(int, damage);
    Home home;
    home.put("a.wav", *drumLoop(92, 16));
    home.put("b.wav", *drumLoop(110, 16));
    QVERIFY((home.crate->addFolder(home.sounds.string())).ok());
    home.scan();
    Marks marks;
    marks.stars = 3;
    marks.provenance.maker = "the ferry band";
    marks.corrections.tempo = Bpm(184);
    QVERIFY((home.crate->setMarks(home.rows("a")[0].hash, marks)).ok());
    QVERIFY((home.crate->keepSearch("mine", "is break")).ok());
    QVERIFY(home.crate->writeProvenance());
    home.crate.reset();
    const fs::path file = home.place / "crate.db";
    const auto size = fs::file_size(file);
    if (damage == 0) std::ofstream(file) << std::string(5000, 'x');
    if (damage == 1) fs::resize_file(file, size / 2);
    if (damage == 2) {
      std::fstream f(file, std::ios::in | std::ios::out | std::ios::binary);
      for (std::uintmax_t at = 4096; at + 4096 < size; at += 4096) {
        f.seekp(std::streamoff(at));
        f << std::string(4096, char(0xA5));
      }
    }
    if (damage == 3) fs::remove(file);
    const auto opened = home.open();
    QVERIFY(opened.rebuilt);
    QVERIFY(damage == 3 || opened.warnings.size() == 1);
    QVERIFY(home.crate->folders()->front() == home.sounds.string());
    QVERIFY(home.crate->searches()->front() ==
            (std::pair<std::string, std::string>{"mine", "is break"}));
    home.scan();
    const auto row = home.rows("a")[0];
    QVERIFY(row.stars == 3 && row.tempo == Bpm(184));
    QVERIFY(home.crate->item(row.id)->value().source.provenance.maker == "the ferry band");
  }

  void foldersAndSearchesAreTakenAway() {
    Home home;
    home.put("one/anchor.wav", *drumLoop(92, 8));
    home.put("one-more/buoy.wav", *drumLoop(110, 8));
    home.put("starred/crane.wav", *drumLoop(120, 8));
    home.scan();
    Marks marks;
    marks.stars = 2;
    QVERIFY(home.crate->setMarks(home.rows("crane")[0].hash, marks).ok());
    const std::string one = (home.sounds / "one").string(),
                      starred = (home.sounds / "starred").string();
    for (const auto& folder : {one, starred}) QVERIFY(home.crate->addFolder(folder).ok());
    QCOMPARE(home.crate->folders()->size(), std::size_t(3));
    QVERIFY(home.crate->removeFolder(one).ok());
    QCOMPARE(home.names(), std::string("buoy crane ")); // another folder's name may begin with it
    QVERIFY(home.crate->removeFolder(starred).ok());
    QCOMPARE(home.names("is missing"), std::string("crane ")); // what was said of it is kept
    QCOMPARE(home.crate->folders()->size(), std::size_t(1));
    QVERIFY(home.crate->keepSearch("loops", "is loop").ok());
    QCOMPARE(home.crate->searches()->size(), std::size_t(1));
    QVERIFY(home.crate->keepSearch("loops", "").ok());
    QVERIFY(home.crate->searches()->empty());
    QVERIFY(home.crate->forget(home.rows("buoy")[0].id).ok());
    QCOMPARE(home.rows("buoy").size(), std::size_t(0));
    QCOMPARE(home.scan().heard, 3); // all of them lie in the folder that is left
  }

  void aNewerCrateIsLeftAlone() {
    Home home;
    home.put("a.wav", *drumLoop(92, 16));
    home.scan();
    home.crate.reset();
    {
      Database database(home.place / "crate.db");
      database.run("PRAGMA user_version = 99; PRAGMA wal_checkpoint(TRUNCATE)");
    }
    std::ifstream before(home.place / "crate.db", std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(before)), {});
    const auto opened = home.open();
    QVERIFY(opened.warnings.size() == 1 && opened.warnings[0].find("newer") != std::string::npos);
    home.scan();
    QCOMPARE(home.rows().size(), std::size_t(1));
    std::ifstream after(home.place / "crate.db", std::ios::binary);
    QVERIFY(bytes == std::string((std::istreambuf_iterator<char>(after)), {}));
  }

  /// A crate, and its export, as schema 1 had them: what was said of a sound is there.
  void whatIsSaidIsWrittenOnce() {
    Home home;
    home.put("a.wav", *drumLoop(92, 16));
    home.scan();
    Marks marks;
    marks.stars = 3;
    QVERIFY(home.crate->setMarks(home.rows("a")[0].hash, marks).ok());
    QVERIFY(home.crate->writeProvenance().ok());
    const fs::path file = home.place / "papers.json";
    QVERIFY(fs::remove(file));
    QVERIFY(home.crate->writeProvenance().ok()); // nothing new was said
    QVERIFY(!fs::exists(file));
    marks.stars = 4;
    QVERIFY(home.crate->setMarks(home.rows("a")[0].hash, marks).ok());
    QVERIFY(home.crate->writeProvenance().ok());
    QVERIFY(fs::exists(file));
  }

  /// Of the second schema: names of folders above the crate's own were words of every sound.
  void foldersAboveTheCratesOwnStopBeingWords() {
    Home home;
    home.put("bell.wav", *makeSound(sine(440, 1.0, 44100), 44100));
    home.put("night/horn.wav", *makeSound(sine(330, 1.0, 44100), 44100));
    home.scan();
    home.crate.reset();
    {
      Database database(home.place / "crate.db");
      database.run("UPDATE words SET folder = 'midnight upstairs sounds'; PRAGMA user_version = 2");
      withoutParts(database);
    }
    QVERIFY(home.open().warnings.empty());
    QCOMPARE(home.names("upstairs"), std::string());
    QCOMPARE(home.names("sounds"), std::string("bell horn "));
    QCOMPARE(home.names("night"), std::string("horn "));
  }

  /// What was heard before parts were listened for is found by all else, and heard anew says them.
  void partsAreNotKnownOfWhatWasHeardBefore() {
    Home home;
    home.put("beat.wav", *drumLoop(92, 16));
    home.scan();
    QCOMPARE(home.names("has drums"), std::string("beat "));
    home.crate.reset();
    {
      Database database(home.place / "crate.db");
      withoutParts(database);
      database.run("PRAGMA user_version = 3");
    }
    QVERIFY(home.open().warnings.empty());
    QCOMPARE(home.names("has drums"), std::string());
    QCOMPARE(home.names("no drums"), std::string());
    QCOMPARE(home.names("92 bpm"), std::string("beat "));
    Marks said;
    said.stars = 2;
    QVERIFY(home.crate->setMarks(home.rows()[0].hash, said).ok());
    QCOMPARE(home.names("has drums"), std::string("beat ")); // worked out with all the rest
  }

  void cratesOfTheFirstSchemaAreBroughtUp() {
    for (const bool fromExport : {false, true}) {
      Home home;
      home.put("a.wav", *drumLoop(92, 16));
      home.scan();
      const auto row = home.rows()[0];
      const std::string hash = home.crate->item(row.id)->value().source.hash;
      Marks said;
      said.stars = 4;
      said.provenance.maker = "the ferry band";
      said.provenance.recording = Permission::Asked;
      QVERIFY(home.crate->setMarks(hash, said).ok());
      QVERIFY(home.crate->writeProvenance().ok());
      home.crate.reset();
      const auto older = [](QString text) {
        return text.replace("\"provenance\"", "\"papers\"")
            .replace("\"recording\"", "\"permission\"")
            .replace("\"schema\": 2", "\"schema\": 1");
      };
      QFile file(QString::fromStdString((home.place / "papers.json").string()));
      QVERIFY(file.open(QIODevice::ReadOnly));
      const QString text = older(QString::fromUtf8(file.readAll()));
      QVERIFY(text.contains("papers") && text.contains("permission"));
      file.close();
      if (fromExport) {
        QVERIFY(file.open(QIODevice::WriteOnly | QIODevice::Truncate));
        file.write(text.toUtf8());
        file.close();
        fs::remove(home.place / "crate.db");
      } else {
        Database database(home.place / "crate.db");
        std::string marks;
        {
          auto read = database.prepare("SELECT marks FROM marks");
          QVERIFY(read.step());
          marks = older(QString::fromStdString(read.text(0))).toStdString();
        }
        auto put = database.prepare("UPDATE marks SET marks = ?1");
        put.with(marks).run();
        withoutParts(database);
        database.run("PRAGMA user_version = 1; PRAGMA wal_checkpoint(TRUNCATE)");
      }
      const auto opened = home.open();
      QVERIFY(opened.warnings.empty());
      const auto now = home.crate->marksOf(hash);
      QVERIFY(now.ok());
      QCOMPARE(now->stars, 4);
      QCOMPARE(now->provenance.maker, std::string("the ferry band"));
      QVERIFY(now->provenance.recording == Permission::Asked);
      if (fromExport) continue;
      home.crate.reset();
      Database database(home.place / "crate.db");
      auto version = database.prepare("PRAGMA user_version");
      QVERIFY(version.step() && version.integer(0) == Crate::kSchema);
    }
  }

  void provenanceThatCannotBeReadAreKeptAside() {
    for (const auto& [name, keeps, writes] : {std::tuple{"damaged.json", true, true},
                                              {"unknown-word.json", true, true},
                                              {"newer.json", false, false}}) {
      Home home;
      home.crate.reset();
      fs::remove_all(home.place);
      fs::create_directories(home.place);
      const fs::path provenance = home.place / "papers.json";
      const std::string before =
          *readFile(std::string(TUVVO_TEST_DIR) + "/fuzz/seeds/papers/" + name, 1 << 20);
      QVERIFY(writeFileAtomically(provenance, before).ok());
      const auto opened = home.open();
      QVERIFY2(opened.warnings.size() == 1, name);
      QVERIFY(home.crate->addFolder("/x").ok());
      QVERIFY(home.crate->writeProvenance().ok());
      bool aside = false;
      for (const auto& file : fs::directory_iterator(home.place))
        aside = aside || (file.path().filename().string().find(" kept ") != std::string::npos &&
                          *readFile(file.path(), 1 << 20) == before);
      QCOMPARE(aside, keeps);
      QCOMPARE(*readFile(provenance, 1 << 20) != before, writes);
      if (std::string(name) == "unknown-word.json") { // and it is written again
        const std::string now = *readFile(provenance, 1 << 20);
        QVERIFY(now.find("\"lent\"") != std::string::npos);
        QVERIFY(now.find("permission by letter") != std::string::npos);
        QVERIFY(now.find("\"/x\"") != std::string::npos);
      }
      // The second start has nothing more to say, but for provenance that stay another's.
      QCOMPARE(home.open().warnings.size(), std::size_t(writes ? 0 : 1));
    }
  }

  void aNameThatIsNoTextIsKept() {
    const auto bytes =
        readFile(std::string(TUVVO_TEST_DIR) + "/fuzz/seeds/papers/name-that-is-a-list.json", 4096);
    const auto read = exportFromText(*bytes, "x");
    QVERIFY(read.ok());
    const std::string once = exportText(read->all);
    QCOMPARE(nlohmann::json::parse(once)["sounds"][0]["name"], nlohmann::json::array({"r+in"}));
    QCOMPARE(exportText(exportFromText(once, "x")->all), once);
  }

  void whatSomebodyElseWroteIntoTheProvenanceIsTaken() {
    Home home;
    const std::string hash(32, 'b');
    QVERIFY(home.crate->setMarks(hash, {2, {"mine"}, {}, {}, {}}).ok());
    QVERIFY(home.crate->writeProvenance().ok());
    auto json = nlohmann::json::parse(*readFile(home.place / "papers.json", 1 << 20));
    json["sounds"][0]["stars"] = 5;
    json["shelf"] = 3;
    home.crate.reset();
    QVERIFY(writeFileAtomically(home.place / "papers.json", json.dump()).ok());
    (void)home.open();
    QCOMPARE(home.crate->marksOf(hash)->stars, 5);
    QVERIFY(home.crate->setMarks(hash, {1, {}, {}, {}, {}}).ok());
    QVERIFY(home.crate->writeProvenance().ok());
    json = nlohmann::json::parse(*readFile(home.place / "papers.json", 1 << 20));
    QCOMPARE(json["shelf"].get<int>(), 3);
    QCOMPARE(json["sounds"][0]["stars"].get<int>(), 1);
  }

  void whatWasSaidJustBeforeTheEndIsWrittenAtTheNextStart() {
    Home home;
    const std::string hash(32, 'c');
    QVERIFY(home.crate->setMarks(hash, {4, {}, {}, {}, {}}).ok());
    (void)home.open(); // nobody had written the provenance
    QVERIFY(home.crate->writeProvenance().ok());
    QVERIFY(readFile(home.place / "papers.json", 1 << 20)->find(hash) != std::string::npos);
  }

  void aCrateWithTablesOrColumnsMissingIsBuiltAgain() {
    for (const char* damage : {"drop table source; drop table heard", "drop table kept",
                               "alter table file drop column why", "drop table words"}) {
      Home home;
      home.put("a.wav", *drumLoop(100, 2));
      (void)home.scan();
      const std::string hash = home.rows()[0].hash;
      QVERIFY(home.crate->setMarks(hash, {3, {}, {}, {}, {}}).ok());
      QVERIFY(home.crate->writeProvenance().ok());
      home.crate.reset();
      Database(home.place / "crate.db").run(damage);
      const auto opened = home.open();
      const bool grows = std::string(damage) == "drop table kept"; // it came later
      QVERIFY2(opened.warnings.empty() == grows, damage);
      (void)home.scan();
      QCOMPARE(home.rows().size(), std::size_t(1));
      QCOMPARE(home.crate->marksOf(hash)->stars, 3);
    }
  }

  void provenanceSurviveWhatIsWrong() {
    const std::string hash(32, 'a');
    std::string text = "{'format':'tuvvo crate papers','schema':1,'folders':['/x',5],'sounds':["
                       "{'hash':'" +
                       hash + "','stars':99,'tags':['a',7]},{'hash':5},{'stars':1},'x']}";
    std::replace(text.begin(), text.end(), '\'', '"');
    const auto read = exportFromText(text, "papers.json");
    QVERIFY(read && read->all.marks.size() == 1 && read->all.folders.size() == 1);
    // Three entries and two words that are none are kept as they are.
    const auto again = nlohmann::json::parse(exportText(read->all));
    QCOMPARE(again["sounds"].size(), std::size_t(4));
    QCOMPARE(again["sounds"][0]["stars"].get<int>(), 99);
    QCOMPARE(again["folders"].size(), std::size_t(2));
    QCOMPARE(read->all.marks.at(hash).stars, 5);
    for (const char* bad : {"", "{", "[]", "{\"format\":\"other\"}"}) {
      QVERIFY(!exportFromText(bad, "papers.json"));
    }
  }
};

QTEST_GUILESS_MAIN(TestCrateKept)
#include "tst_crate_kept.moc"
