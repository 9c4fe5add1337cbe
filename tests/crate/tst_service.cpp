// The simulated sample service: the catalogue that ships, a made one with every kind, damaged and
// hostile ones.
#include "crate/service.h"

#include "support.h"

#include <QTemporaryDir>
#include <QtTest>
#include <fstream>
#include <set>

using namespace tuvvo;
using namespace tuvvo::test;
namespace fs = std::filesystem;

namespace {

const BeatNow kBeat{Bpm(90), KeyName{9, true}};

void write(const fs::path& path, const std::string& text) { std::ofstream(path) << text; }

std::string entry(const std::string& id, const std::string& more) {
  return R"({"id": ")" + id + R"(", "title": "title )" + id + R"(")" + more + "}";
}

std::vector<std::string> titlesOf(const SampleService& service, const std::string& words,
                                  const BeatNow& beat = kBeat) {
  std::vector<std::string> out;
  for (std::size_t place : service.find(readQuery(words), beat))
    out.push_back(service.items()[place].title);
  return out;
}

} // namespace

class TestService : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  fs::path folder() { return pathIn(m_dir, "service"); }

  SampleService made(const std::string& items) {
    write(folder() / "catalogue.json", R"({"items": [)" + items + "]}");
    auto service = SampleService::open(folder());
    if (!service.ok()) qFatal("%s", service.error().text().c_str());
    return *service;
  }

private slots:
  void init() {
    fs::remove_all(folder());
    fs::create_directories(folder());
    write(folder() / "a.flac", "sound");
  }

  void whatShipsIsWhole() {
    const auto service = SampleService::open(fs::path(TUVVO_DATA_DIR) / "service");
    QVERIFY(service.ok() && service->items().size() >= 4);
    std::set<std::string> ids;
    for (std::size_t i = 0; i < service->items().size(); ++i) {
      const ServiceItem& item = service->items()[i];
      QVERIFY(ids.insert(item.id).second);
      QVERIFY(fs::is_regular_file(item.file) && item.duration.value > 0);
      const Source source = service->sourceOf(i);
      QCOMPARE(source.name, item.title);
      QVERIFY(source.heard && std::abs((source.heard->duration - item.duration).value) < 0.01);
      QCOMPARE(source.provenance, item.provenance);
      QVERIFY(cleared(source.provenance));
    }
  }

  void whatIsInThemCanBeAskedFor() {
    const auto service = SampleService::open(fs::path(TUVVO_DATA_DIR) / "service");
    const auto drums = titlesOf(*service, "has drums"), none = titlesOf(*service, "no drums");
    QVERIFY(!drums.empty() && !none.empty());
    QCOMPARE(drums.size() + none.size(), service->items().size()); // each has one kind of part
    Query query = readQuery("like this one");
    query.like = likenessOf(*service->sourceOf(0).heard);
    const auto like = service->find(query, kBeat);
    QVERIFY(like.size() >= 1 && like.front() == 0);
  }

  void everyKindIsRead() {
    std::string items;
    for (std::size_t k = 0; k < kSoundKinds; ++k)
      items += (k ? ", " : "") +
               entry(std::to_string(k), R"(, "file": "a.flac", "kind": ")" +
                                            std::string(nameOf(SoundKind(k))) + R"(")");
    const auto service = made(items);
    QCOMPARE(service.items().size(), kSoundKinds);
    for (std::size_t k = 0; k < kSoundKinds; ++k) QVERIFY(service.items()[k].kind == SoundKind(k));
    QCOMPARE(titlesOf(service, "is break").size(), 1u);
  }

  void itIsAskedAsTheCrateIs() {
    const auto service = made(
        entry("far",
              R"(, "file": "a.flac", "bpm": 133, "key": "Ebm", "bars": 4, "tags": ["Warm"])") +
        ", " + entry("near", R"(, "file": "a.flac", "bpm": 90, "key": "Am", "tags": ["night"])") +
        ", " + entry("none", R"(, "file": "a.flac")"));
    using Titles = std::vector<std::string>;
    QVERIFY(titlesOf(service, "") == (Titles{"title near", "title far", "title none"}));
    QVERIFY(titlesOf(service, "", {Bpm(133), KeyName{3, true}}).front() == "title far");
    QVERIFY(titlesOf(service, "wa") == Titles{"title far"}); // beginnings of words, of tags too
    QVERIFY(titlesOf(service, "arm").empty());
    QVERIFY(titlesOf(service, "tag warm") == Titles{"title far"});
    QVERIFY(titlesOf(service, "85-95 bpm") == Titles{"title near"});
    QVERIFY(titlesOf(service, "4 bars") == Titles{"title far"});
    QVERIFY(titlesOf(service, "chord minor").empty()); // it tells of no chords
  }

  void whatIsHadIsCopiedOnce() {
    const auto service = made(entry("one", R"(, "file": "a.flac")"));
    const fs::path target = pathIn(m_dir, "had");
    const auto first = service.get(0, target);
    QVERIFY(first.ok());
    QCOMPARE(*first, target / "title one.flac");
    write(*first, "kept");
    const auto again = service.get(0, target);
    QVERIFY(again.ok() && *again == *first && fs::file_size(*again) == 4);
    fs::remove_all(target);
    fs::remove(folder() / "a.flac");
    QVERIFY(!service.get(0, target).ok());
  }

  void entriesThatAreNotSoundAreLeftOut() {
    write(pathIn(m_dir, "outside.flac"), "sound");
    const auto service =
        made(entry("up", R"(, "file": "../outside.flac")") + ", " +
             entry("root", R"(, "file": ")" + (folder() / "a.flac").string() + R"(")") + ", " +
             entry("gone", R"(, "file": "gone.flac")") + ", " + entry("without", "") + ", " +
             entry("", R"(, "file": "a.flac")") + R"(, 7, "text", null, )" +
             entry("wide", R"(, "file": "a.flac", "bpm": 1e9, "durationS": -4, "bars": 99999999)"));
    for (const auto& item : service.items()) {
      QCOMPARE(item.id, std::string("wide"));
      QVERIFY(item.tempo->value <= 400 && item.duration.value >= 0 && item.bars <= 1024);
    }
    QVERIFY(service.items().size() <= 1);
  }

  void aDamagedCatalogueSaysSo() {
    for (const char* text : {"", "{", "[]", R"({"items": 4})", "\xff\xfe"}) {
      write(folder() / "catalogue.json", text);
      const auto service = SampleService::open(folder());
      if (service.ok())
        QVERIFY(service->items().empty());
      else
        QVERIFY(service.error().text().find("catalogue") != std::string::npos);
    }
    fs::remove(folder() / "catalogue.json");
    QVERIFY(!SampleService::open(folder()).ok());
  }
};

QTEST_GUILESS_MAIN(TestService)
#include "tst_service.moc"
