// The crate on real files: what is found, and by what.
#include "crate/scanner.h"
#include "home.h"
#include "patience.h"

#include <QTest>
#include <fcntl.h>
#include <fstream>
#include <sys/stat.h>
#include <sys/wait.h>
#include <taglib/fileref.h>
#include <taglib/tag.h>
#include <unistd.h>

using namespace tuvvo;
using namespace tuvvo::test;
namespace fs = std::filesystem;

class TestCrate : public QObject {
  Q_OBJECT
private slots:
  void heardOnceAndKnownAgain() {
    Home home;
    home.put("drums 92.wav", *drumLoop(92, 16));
    home.put("deep/er/drums 120.wav", *drumLoop(120, 16));
    std::ofstream(home.sounds / "notes.txt") << "no sound";
    const auto first = home.scan();
    QCOMPARE(first.heard, 2);
    const auto rows = home.rows();
    QCOMPARE(rows.size(), std::size_t(2));
    QVERIFY(rows[1].name == "drums 92" && std::abs(rows[1].tempo->value - 92) < 0.05);
    QVERIFY(rows[1].kind == SoundKind::Break);
    QCOMPARE(rows[1].bars, 4);
    QVERIFY(rows[0].name == "drums 120" && std::abs(rows[0].tempo->value - 120) < 0.05);
    QVERIFY(rows[0].kind == SoundKind::Break);
    QCOMPARE(rows[0].bars, 4);
    QVERIFY(std::abs(rows[0].duration.value - 8) < 1e-3 && rows[0].copies == 1 && rows[0].heard);
    QCOMPARE(home.scan().toHear, 0); // nothing changed
    home.open();                     // and not after a restart either
    QCOMPARE(home.scan().toHear, 0);
    QCOMPARE(home.rows().size(), std::size_t(2));
  }

  // What is asked for in words goes by what was heard; of hiss and a loop, the loop.
  void onlyWhatIsSteadyIsFoundAsSteady() {
    Home home;
    home.put("loop.wav", *drumLoop(92, 16));
    Samples hiss(44100 * 6);
    Random random(3);
    for (auto& v : hiss) v = float(0.1 * random.bipolar());
    home.put("hiss.wav", *makeSound(hiss));
    home.scan();
    const auto names = [&](const char* words) {
      QStringList out;
      for (const auto& row : home.rows(words)) out << QString::fromStdString(row.name);
      return out;
    };
    for (int time = 0; time < 2; ++time) { // as it was scanned, and as it is opened again
      QCOMPARE(names("is steady"), QStringList{"loop"});
      QCOMPARE(names("").size(), 2);
      QCOMPARE(names("is exact"), QStringList{"loop"});
      QCOMPARE(names("4 bars"), QStringList{"loop"});
      home.open();
    }
  }

  void movedRenamedDoubled() {
    Home home;
    const auto path = home.put("first.wav", *drumLoop(92, 16));
    home.scan();
    const auto before = home.rows()[0];
    QVERIFY((home.crate->setMarks(before.hash, {4, {"harbour"}, {}, {}})).ok());
    fs::create_directories(home.sounds / "else");
    fs::rename(path, home.sounds / "else" / "second.wav");
    home.scan();
    auto rows = home.rows();
    QCOMPARE(rows.size(), std::size_t(1));
    QVERIFY(rows[0].hash == before.hash && rows[0].name == "second" && !rows[0].missing);
    QCOMPARE(rows[0].stars, 4);
    fs::copy_file(home.sounds / "else" / "second.wav", home.sounds / "twin.wav");
    home.scan();
    QCOMPARE(home.rows("is twice").size(), std::size_t(1));
    QCOMPARE(home.rows()[0].copies, 2);
    fs::remove(home.sounds / "else" / "second.wav");
    fs::rename(home.sounds / "twin.wav", home.sounds / "twin.txt"); // out of sight
    home.scan();
    QCOMPARE(home.rows("is missing").size(), std::size_t(1));
    fs::rename(home.sounds / "twin.txt", home.sounds / "again.wav");
    home.scan();
    rows = home.rows();
    QVERIFY(rows.size() == 1 && !rows[0].missing && rows[0].name == "again");
    QCOMPARE(rows[0].stars, 4);
  }

  void otherContentIsAnotherSource() {
    Home home;
    home.put("a.wav", *drumLoop(92, 16));
    home.scan();
    const auto old = home.rows()[0].hash;
    QVERIFY((home.crate->setMarks(old, {5, {}, {}, {}})).ok());
    home.put("a.wav", *drumLoop(120, 16));
    home.scan();
    QCOMPARE(home.rows("is missing").size(), std::size_t(1)); // what was starred is not forgotten
    QVERIFY(std::abs(home.rows("exactly 120 bpm")[0].tempo->value - 120) < 0.05);
  }

  void searches() {
    Home home;
    home.put("rain/soft loop.wav", *drumLoop(92, 16));
    home.put("quay_bell.wav", *makeSound(sine(440, 1.0, 44100), 44100));
    home.scan();
    Marks marks;
    marks.tags = {"Harbour", "night ferry"};
    marks.provenance.maker = "the crew of pier nine";
    QVERIFY((home.crate->setMarks(home.rows("bell")[0].hash, marks)).ok());
    QCOMPARE(home.names("RAIN"), std::string("soft loop "));  // a folder
    QCOMPARE(home.names("be"), std::string("quay_bell "));    // a beginning, past an underscore
    QCOMPARE(home.names("crew"), std::string("quay_bell "));  // provenance
    QCOMPARE(home.names("ferry"), std::string("quay_bell ")); // tags
    QCOMPARE(home.names("tag harbour"), std::string("quay_bell "));
    QCOMPARE(home.names("tag harb"), std::string());
    QCOMPARE(home.names("rain bell"), std::string());          // all words
    QCOMPARE(home.names("46 bpm"), std::string("soft loop ")); // half
    QCOMPARE(home.names("exactly 46 bpm"), std::string());
    QCOMPARE(home.names("4 bars is exact"), std::string("soft loop "));
    QCOMPARE(home.names("is one-shot"), std::string("quay_bell "));
    for (const char* odd : {"\"", "*", "a*b\"c", "'; DROP TABLE source", "NEAR(", "AND", "-", "é"})
      home.names(odd); // nothing that is typed breaks the question
    QCOMPARE(home.rows().size(), std::size_t(2));
  }

  // A folder of the crate and those in it name a sound, those above it do not, nor those far off.
  void foldersOfTheCrateAreWords() {
    Home home;
    home.sounds /= "night";
    home.put("one/two/three/bell.wav", *makeSound(sine(440, 1.0, 44100), 44100));
    home.put("horn.wav", *makeSound(sine(330, 1.0, 44100), 44100));
    home.scan();
    QCOMPARE(home.names("night"), std::string("horn "));
    QCOMPARE(home.names("three"), std::string("bell "));
    QCOMPARE(home.names("one"), std::string("bell "));
    QCOMPARE(home.names("sounds"), std::string());
    QVERIFY(home.crate->addFolder(home.sounds.parent_path().string()).ok());
    home.put("gull.wav", *makeSound(sine(550, 1.0, 44100), 44100));
    home.scan();
    QCOMPARE(home.names("sounds"),
             std::string("gull ")); // in the outer folder, which is listed now
  }

  void reachPutsTheNearestFirst() {
    Home home;
    for (double bpm : {70.0, 88.0, 91.0, 120.0})
      home.put("d" + std::to_string(int(bpm)) + ".wav", *drumLoop(bpm, 16));
    home.scan();
    const BeatNow beat{Bpm(90), {}};
    QVERIFY(home.names("", CrateOrder::Reach, beat).starts_with("d91 d88 "));
    QVERIFY(home.names("", CrateOrder::Reach, {Bpm(140), {}}).starts_with("d70 ")); // its double
    QCOMPARE(home.names("beat bpm", CrateOrder::Name, beat), std::string("d88 d91 "));
  }

  void rowsComeInTheOrderAskedFor() {
    Home home;
    home.put("b slow.wav", *drumLoop(80, 16));                        // 12 s
    home.put("a fast.wav", *drumLoop(130, 16));                       // 7.4 s
    home.put("c bell.wav", *makeSound(sine(440, 1.0, 44100), 44100)); // no tempo
    home.scan();
    Marks marks;
    marks.stars = 4;
    QVERIFY(home.crate->setMarks(home.rows("slow")[0].hash, marks).ok());
    QCOMPARE(home.names("", CrateOrder::Name), std::string("a fast b slow c bell "));
    QCOMPARE(home.names("", CrateOrder::Tempo), std::string("b slow a fast c bell "));
    QCOMPARE(home.names("", CrateOrder::Length), std::string("c bell a fast b slow "));
    QVERIFY(home.names("", CrateOrder::Stars).starts_with("b slow "));
    QCOMPARE(home.names("4 stars", CrateOrder::Name), std::string("b slow "));
    QCOMPARE(home.names("1 star", CrateOrder::Name), std::string("b slow ")); // others have none
    QCOMPARE(home.names("5 stars", CrateOrder::Name), std::string());
    home.put("d new.wav", *makeSound(sine(550, 1.0, 44100), 44100));
    home.scan();
    QVERIFY(home.names("", CrateOrder::Newest).starts_with("d new "));
    // A number of a source by its content, its reach, and what the fit is asked for it.
    const auto row = home.rows("fast")[0];
    QCOMPARE(home.crate->idOf(row.hash).value(), row.id);
    const BeatNow near{Bpm(128), {}}, far{Bpm(99), {}};
    QVERIFY(home.crate->reachOf(row.id, near) < home.crate->reachOf(row.id, far));
    QVERIFY(std::isinf(home.crate->reachOf(row.id + 100, near)));
    const FitQuestion question = fitQuestion(row, near);
    QVERIFY(question.bpm == row.tempo && question.toBpm == Bpm(128) && !question.rings);
    QVERIFY(std::abs(question.hitsASecond - row.hits / row.duration.value) < 1e-9);
  }

  void correctionsFollowThroughAndComeBack() {
    Home home;
    home.put("a.wav", *drumLoop(92, 16));
    home.scan();
    const std::string hash = home.rows()[0].hash;
    Marks marks;
    marks.corrections.tempo = Bpm(46);
    marks.corrections.kind = SoundKind::Loop;
    QVERIFY((home.crate->setMarks(hash, marks)).ok());
    QVERIFY(home.rows()[0].tempo == Bpm(46));
    QCOMPARE(home.rows()[0].bars, 2);
    QCOMPARE(home.rows("is loop").size(), std::size_t(1));
    home.open();
    QVERIFY(home.rows()[0].tempo == Bpm(46));
    QVERIFY((home.crate->setMarks(hash, {})).ok());
    QVERIFY(std::abs(home.rows()[0].tempo->value - 92) < 0.05);
    QVERIFY(home.rows("is break").size() == 1 && home.rows()[0].bars == 4);
  }

  void tagsFillTheProvenance() {
    Home home;
    QVERIFY(fs::copy_file(fs::path(TUVVO_DATA_DIR) / "kit" / "07 snare.flac",
                          home.sounds / "snare.flac"));
    {
      TagLib::FileRef file((home.sounds / "snare.flac").c_str());
      file.tag()->setTitle("Gate Four");
      file.tag()->setArtist("the deckhands");
      file.tag()->setYear(2019);
      QVERIFY(file.save());
    }
    home.scan();
    const auto item = **home.crate->item(home.rows()[0].id);
    QVERIFY(item.source.provenance.title == "Gate Four" &&
            item.source.provenance.maker == "the deckhands");
    QVERIFY(item.source.provenance.when == "2019");
    QVERIFY(item.source.provenance.recording == Permission::Unrecorded); // a tag is no permission
    QCOMPARE(home.names("deckhands"), std::string("snare "));
  }

  void foldersThatLoop() {
    Home home;
    home.put("x/a.wav", *drumLoop(92, 16));
    fs::create_directory_symlink(home.sounds, home.sounds / "x" / "back");
    fs::create_directory_symlink("self", home.sounds / "self");
    QCOMPARE(home.scan().seen, 1);
    QCOMPARE(home.rows().size(), std::size_t(1));
  }

  void foldersAreFollowedSoDeep() {
    Home home;
    home.put("1/2/near.wav", *makeSound(sine(440, 0.5, 8000), 8000));
    home.put("1/2/3/far.wav", *makeSound(sine(550, 0.5, 8000), 8000));
    QCOMPARE(home.scan({2, Milliseconds(0), 2}).seen, 1);
    QCOMPARE(home.names(), std::string("near "));
    QCOMPARE(home.scan({2, Milliseconds(0), 3}).seen, 2);
  }

  void filesBeingWrittenWait() {
    Home home;
    home.put("a.wav", *drumLoop(92, 16));
    const auto now = home.scan({1, Milliseconds(60000), 64});
    QVERIFY(now.settling == 1 && now.heard == 0);
    QVERIFY(home.rows().size() == 1 && !home.rows()[0].heard); // it stands in the list already
    QCOMPARE(home.scan().heard, 1);
  }

  void manyUnreadableFiles() {
    Home home;
    for (int i = 0; i < 2000; ++i)
      std::ofstream(home.sounds / ("bad" + std::to_string(i) + ".wav")) << "no sound at all";
    home.put("good.wav", *drumLoop(92, 16));
    const auto done = home.scan();
    QVERIFY(done.unreadable == 2000 && done.heard == 1);
    QCOMPARE(home.rows().size(), std::size_t(1));
    const auto bad = *home.crate->unreadable();
    QVERIFY(bad.count == 2000 && bad.some.size() == 1000 && !bad.some[0].second.empty());
    QCOMPARE(home.scan().toHear, 0); // not tried again until they change
  }

  void pauseAndCancel() {
    Home home;
    constexpr int kSounds = 12;
    for (int i = 0; i < kSounds; ++i)
      home.put("d" + std::to_string(i) + ".wav", *drumLoop(80 + i, 16));
    Scanner scanner(*home.crate, kAtOnce);
    scanner.setPaused(true);
    scanner.scan({home.sounds});
    EVENTUALLY_IS(scanner.progress().toHear, kSounds);
    QTest::qWait(100);
    QCOMPARE(scanner.progress().heard, 0);
    QCOMPARE(home.rows().size(), std::size_t(kSounds)); // rows are there before anything is heard
    scanner.setPaused(false);
    EVENTUALLY(scanner.progress().heard > 2);
    scanner.cancel();
    scanner.wait();
    const int heard = scanner.progress().heard;
    QVERIFY(heard < kSounds);
    scanner.scan({home.sounds});
    scanner.wait();
    QCOMPARE(scanner.progress().heard + heard, kSounds); // what was heard is not heard again
  }

  void whereItIsUsed() {
    Home home;
    home.put("a.wav", *drumLoop(92, 16));
    home.scan();
    const auto row = home.rows()[0];
    QVERIFY((home.crate->setUses("/p/one.tuvvo", "Salt Quay", {row.hash})).ok());
    QVERIFY(home.rows("is used").size() == 1 && home.rows("is unused").empty());
    QVERIFY(home.crate->item(row.id)->value().usedIn == std::vector<std::string>{"Salt Quay"});
    QVERIFY((home.crate->setUses("/p/one.tuvvo", "Salt Quay", {})).ok());
    QVERIFY(home.rows("is used").empty());
  }

  void chordsCanBeAskedFor() {
    Home home;
    // A minor and F major, two bars each at 120 BPM, with a click on every beat.
    Samples out(std::size_t(16 * 0.5 * 44100), 0.0f);
    const std::vector<std::vector<double>> chords{{57, 60, 64, 45}, {53, 57, 60, 41}};
    for (int beat = 0; beat < 16; ++beat) {
      addHit(out, beat * 0.5, 44100, 60, 0.2, 0.3);
      for (double note : chords[std::size_t(beat / 8)])
        for (std::size_t i = 0; i < 22050; ++i) {
          const double t = double(i) / 44100;
          for (int h = 1; h <= 4; ++h)
            out[std::size_t(beat) * 22050 + i] += float(
                0.1 / h * std::exp(-t * 2) * std::sin(2 * M_PI * h * frequencyOf(note).value * t));
        }
    }
    home.put("two chords.wav", *makeSound(out, 44100));
    home.scan();
    QCOMPARE(home.rows("chord minor held 1").size(), std::size_t(1));
    QCOMPARE(home.rows("chord Am").size() + home.rows("chord Am7").size(), std::size_t(1));
    QVERIFY(home.rows("chord minor held 5").empty());
    QVERIFY(home.rows("chord C#dim").empty());
  }

  /// A beat of drums and a held tone: found by what is in them, and by what they are like.
  void whatIsInThemCanBeAskedFor() {
    Home home;
    home.put("drums.wav", *drumLoop(100, 16));
    home.put("more drums.wav", *drumLoop(104, 16));
    Samples tone = sine(330, 8, 48000);
    home.put("tone.wav", *makeSound(tone));
    home.scan();
    QCOMPARE(home.names("has drums"), std::string("drums more drums "));
    QCOMPARE(home.names("no drums"), std::string("tone "));
    QCOMPARE(home.names("has tones no drums"), std::string("tone "));
    QCOMPARE(home.names("has drums no drums"), std::string());
    const auto like = [&](const std::string& name) {
      Query query = readQuery("like this one");
      const auto item = home.crate->item(home.rows(name).front().id);
      query.like = likenessOf(*(*item)->source.heard);
      std::string out;
      const auto found = home.crate->find(query, CrateOrder::Name, {});
      for (CrateId id : found->ids) out += (*home.crate->row(id))->name + ' ';
      return out;
    };
    QCOMPARE(like("more"), std::string("more drums drums ")); // nearest first, itself at the head
    QCOMPARE(like("tone"), std::string("tone "));
    home.open(); // from the file
    QCOMPARE(home.names("has drums"), std::string("drums more drums "));
    QCOMPARE(like("tone"), std::string("tone "));
  }

  void filesOfTheFutureAreHeard() {
    Home home;
    const fs::path file = home.put("a.wav", *drumLoop(100, 2));
    const timespec ahead[2] = {{4'000'000'000, 0}, {4'000'000'000, 0}};
    QCOMPARE(::utimensat(AT_FDCWD, file.c_str(), ahead, 0), 0);
    const auto progress = home.scan({1, Milliseconds(2000), 64});
    QCOMPARE(progress.heard, 1);
    QCOMPARE(progress.settling, 0);
  }

  void twoFirstScansAtOnceBothSucceed() {
#ifdef __SANITIZE_THREAD__
    QSKIP("that sanitizer allows a forked process no threads");
#endif
    Home home;
    home.crate.reset();
    fs::remove_all(home.place);
    for (int i = 0; i < 6; ++i) home.put("s" + std::to_string(i) + ".wav", *drumLoop(100 + i, 1));
    std::vector<pid_t> children;
    for (int i = 0; i < 3; ++i) {
      const pid_t child = ::fork();
      if (child == 0) {
        auto opened = Crate::open(home.place);
        if (!opened) ::_exit(1);
        const auto crate = std::move(std::move(opened).value().crate);
        Scanner scanner(*crate, kAtOnce);
        scanner.scan({home.sounds});
        scanner.wait();
        const auto done = scanner.progress();
        ::_exit(done.trouble.empty() && done.unreadable == 0 && crate->writeProvenance().ok() ? 0
                                                                                              : 2);
      }
      children.push_back(child);
    }
    for (pid_t child : children) {
      int status = 0;
      ::waitpid(child, &status, 0);
      QCOMPARE(WEXITSTATUS(status), 0);
    }
    QVERIFY(home.open().warnings.empty());
    QCOMPARE(home.rows().size(), std::size_t(6));
    for (const auto& row : home.rows()) QVERIFY(row.heard);
  }
};

QTEST_GUILESS_MAIN(TestCrate)
#include "tst_crate.moc"
