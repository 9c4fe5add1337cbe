// What keeps files whole: new files, names of one run, locks; and figures and texts from outside.
#include "base/convert.h"
#include "base/folder_lock.h"
#include "base/guard.h"
#include "base/jobs.h"
#include "base/new_file.h"
#include "base/outputs.h"
#include "faults/faults.h"
#include "support.h"

#include <QtTest>
#include <fstream>
#include <sys/wait.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace fs = std::filesystem;

class TestKeeping : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;

  fs::path fresh(const char* name) {
    const fs::path folder = pathIn(m_dir, name);
    fs::create_directories(folder);
    return folder;
  }
  static void put(const fs::path& path, const std::string& bytes = "precious") {
    std::ofstream(path) << bytes;
  }

private slots:
  void noFigureBecomesAnyWholeNumber() {
    QCOMPARE(toWhole<int>(NAN), 0);
    QCOMPARE(toWhole<int>(3.99), 3);
    QCOMPARE(toWhole<int>(-3.99), -3);
    QVERIFY(toWhole<int>(1e300) + toWhole<int>(1e300) > 0); // two of them can be added
    QVERIFY(toWhole<std::int64_t>(-INFINITY) < -(std::int64_t(1) << 60));
    QCOMPARE(toWhole<std::uint8_t>(400.0), std::uint8_t(255));
    QCOMPARE(toWhole<std::size_t>(-5.0), std::size_t(0));
    QCOMPARE(toWholeIn(7.5, 0, 7), 7);
    QCOMPARE(toWholeIn(double(NAN), 2, 7), 2);
    QCOMPARE(toNearest<int>(2.5), 3);
    QCOMPARE(toNearest<int>(-2.5), -3);
    QCOMPARE(toNearestIn(1e9, 0, 12), 12);
    QCOMPARE(placeIn(NAN, 4), std::size_t(0));
    QCOMPARE(placeIn(99, 4), std::size_t(3));
    QCOMPARE(placeIn(-1, 4), std::size_t(0));
  }

  void noPlaceInTheSourcesRoundsUnchecked() {
    // Of casts the sanitizer's float-cast-overflow tells when a test comes by; rounding functions
    // give anything for what is no number, and nothing tells.
    const fs::path root = fs::path(TUVVO_TEST_DIR).parent_path();
    int files = 0;
    for (const char* part : {"core", "devices", "cli", "app"})
      for (const auto& each : fs::recursive_directory_iterator(root / part)) {
        if (each.path().extension() != ".cpp" && each.path().extension() != ".h") continue;
        const std::string text = *readFile(each.path(), 4 << 20); // weights are sources too
        for (const char* name : {"std::lround(", "std::llround(", "std::lrint(", "std::llrint("})
          QVERIFY2(text.find(name) == std::string::npos, each.path().c_str());
        ++files;
      }
    QVERIFY(files > 300);
  }

  void namesAreShownWithoutDoingAnything() {
    QCOMPARE(shown("quay \xc3\xa4"), std::string("quay \xc3\xa4"));
    QCOMPARE(shown("a\x1b[31mb"), std::string("a\\x1b[31mb"));
    QCOMPARE(shown("a\nb\tc"), std::string("a\\nb\\tc"));
    QCOMPARE(shown("a\xe2\x80\xae"
                   "b"),
             std::string("a\\u202eb")); // turns the writing round
    QCOMPARE(shown("\xc2\x9b"
                   "31m"),
             std::string("\\x9b31m")); // a control of eight bits
    QCOMPARE(shown("\xff\xc0\x80"), std::string("\\xff\\xc0\\x80"));
    QCOMPARE((Error{"Bad", "a\rb", ""}.text()), std::string("a\\rb: Bad."));
  }

  // Every character there is, against Qt's tables of Unicode; the controls of writing's direction
  // are those of Unicode Standard Annex #9, section 2.
  void everyCharacterIsShownOrEscaped() {
    const std::set<char32_t> turning{0x061c, 0x200e, 0x200f, 0x202a, 0x202b, 0x202c,
                                     0x202d, 0x202e, 0x2066, 0x2067, 0x2068, 0x2069};
    for (char32_t code = 0; code <= 0x10ffff; ++code) {
      if (code >= 0xd800 && code < 0xe000) continue; // halves of pairs are no characters
      const auto category = QChar::category(code);
      const bool escaped = category == QChar::Other_Control || turning.contains(code) ||
                           category == QChar::Separator_Line ||
                           category == QChar::Separator_Paragraph;
      const std::string text = QString::fromUcs4(&code, 1).toUtf8().toStdString();
      const std::string now = shown("a" + text + "b");
      const bool asItIs = now == "a" + text + "b";
      QVERIFY2(asItIs != escaped, qPrintable(QString::number(code, 16)));
      if (escaped) QVERIFY(now.starts_with("a\\") && now.ends_with('b'));
    }
  }

  // What is no UTF-8 (RFC 3629, sections 3 and 4) is shown byte by byte.
  void whatIsNoUtf8IsShownByteByByte() {
    for (const char* bytes : {"\x80", "\xbf", "\xc1\xbf", "\xc2", "\xc2\x41", "\xe0\x9f\xbf",
                              "\xe2\x82", "\xed\xa0\x80", "\xed\xbf\xbf", "\xf0\x8f\xbf\xbf",
                              "\xf0\x9f\x98", "\xf4\x90\x80\x80", "\xf5\x80\x80\x80", "\xff"}) {
      const std::string text = bytes;
      const std::string now = shown(text);
      char first[8];
      std::snprintf(first, sizeof first, "\\x%02x", unsigned(std::uint8_t(text[0])));
      QVERIFY2(now.starts_with(first), now.c_str());
    }
    // The last of each length, and the first of the next.
    for (const char* good :
         {"\x7e", "\xc2\xa0", "\xdf\xbf", "\xe0\xa0\x80", "\xed\x9f\xbf", "\xee\x80\x80",
          "\xef\xbf\xbf", "\xf0\x90\x80\x80", "\xf4\x8f\xbf\xbf"})
      QCOMPARE(shown(good), std::string(good));
  }

  void textIsCutBetweenCharacters() {
    const std::string text = "a\xc3\xa4\xe2\x82\xac"; // one, two and three bytes
    for (std::size_t most = 0; most <= text.size(); ++most) {
      const auto cut = beginningOf(text, most);
      QVERIFY(cut.size() <= most);
      QVERIFY(cut.size() == 0 || cut.size() == 1 || cut.size() == 3 || cut.size() == 6);
    }
    QCOMPARE(beginningOf(text, 5).size(), std::size_t(3));
    QCOMPARE(beginningOf("\xff\xff\xff", 2).size(), std::size_t(2));
  }

  void aReplacedFileKeepsItsPermissions() {
    const fs::path file = fresh("modes") / "private";
    put(file);
    fs::permissions(file, fs::perms::owner_read | fs::perms::owner_write);
    QVERIFY(writeFileAtomically(file, "new").ok());
    QCOMPARE(int(fs::status(file).permissions()), 0600);
    const auto before = ::umask(0077);
    const fs::path other = fresh("modes") / "other";
    QVERIFY(writeFileAtomically(other, "new").ok());
    ::umask(before);
    QCOMPARE(int(fs::status(other).permissions()), 0600); // as the process's mask has it
  }

  void nothingIsWrittenThroughALink() {
    const fs::path folder = fresh("links");
    put(folder / "victim");
    fs::create_symlink(folder / "victim", folder / "name");
    QVERIFY(writeFileAtomically(folder / "name", "new").ok());
    QCOMPARE(*readFile(folder / "victim", 100), std::string("precious"));
    // Names of files that are being written cannot be laid out beforehand.
    for (int n = 0; n < 200; ++n) {
      std::error_code code;
      fs::create_symlink(
          folder / "victim",
          folder / (".tuvvo-" + std::to_string(::getpid()) + "-" + std::to_string(n) + ".part"),
          code);
    }
    (void)writeFileAtomically(folder / "another", "new");
    QCOMPARE(*readFile(folder / "victim", 100), std::string("precious"));
  }

  void aFileThatIsThereIsNotReplacedWithoutLeave() {
    const fs::path file = fresh("leave") / "file";
    put(file);
    const auto refused = writeFileAtomically(file, "new", Replace::No);
    QVERIFY(!refused.ok() && refused.error().replaces);
    QCOMPARE(*readFile(file, 100), std::string("precious"));
    QVERIFY(writeFileAtomically(file, "new", Replace::Yes).ok());
  }

  void oneRunWritesOverNoSourceAndNoFileOfItsOwn() {
    const fs::path folder = fresh("run");
    put(folder / "source.wav");
    put(folder / "there.wav");
    fs::create_directories(folder / "beat.tuvvo" / "audio");
    put(folder / "beat.tuvvo" / "audio" / "a.flac");
    fs::create_hard_link(folder / "source.wav", folder / "same.wav");
    fs::create_directory_symlink(folder, folder / "round");
    for (auto replace : {Replace::No, Replace::Yes}) {
      Outputs outputs(replace);
      outputs.protect(folder / "source.wav");
      outputs.protect(folder / "beat.tuvvo");
      for (const char* name : {"source.wav", "same.wav", "round/source.wav", "./source.wav",
                               "beat.tuvvo/audio/a.flac"}) {
        const auto claimed = outputs.claim(folder / name);
        QVERIFY2(!claimed.ok() && !claimed.error().replaces, name);
      }
      QVERIFY(outputs.claim(folder / "new.wav").ok());
      QVERIFY(!outputs.claim(folder / "new.wav").ok());
      QVERIFY(!outputs.claim(folder / "round" / "new.wav").ok()); // the same file
      const auto there = outputs.claim(folder / "there.wav");
      QCOMPARE(there.ok(), replace == Replace::Yes);
      if (!there) QVERIFY(there.error().replaces);
      QVERIFY(!outputs.claim(folder).ok()); // a folder
    }
  }

  void leftoversOfTheDeadGoAndNothingElse() {
    const fs::path folder = fresh("leftovers");
    put(folder / ".tuvvo-1-7.part"); // of a process that is gone
    put(folder / ".tuvvo-1-8.part"); // new: perhaps another machine writes it
    put(folder / ".tuvvo-notes");
    put(folder / "song.part");
    fs::create_symlink(folder / "song.part", folder / ".tuvvo-1-9.part");
    auto alive = NewFile::beside(folder / "being written");
    QVERIFY(alive.ok());
    makeOld(folder);
    const timespec now[2] = {{0, UTIME_NOW}, {0, UTIME_NOW}};
    ::utimensat(AT_FDCWD, (folder / ".tuvvo-1-8.part").c_str(), now, 0);
    QCOMPARE(removeLeftovers(folder), 1);
    for (const char* name : {".tuvvo-1-8.part", ".tuvvo-notes", "song.part"})
      QVERIFY2(fs::exists(folder / name), name);
    NewFile file = std::move(alive).value();
    QVERIFY(file.write("whole").ok() && file.sync().ok() && file.putInPlace(Replace::No).ok());
    QCOMPARE(*readFile(folder / "being written", 100), std::string("whole"));
  }

  void aFailureThatALibraryHidesIsRemembered() {
    const fs::path file = fresh("hidden") / "file";
    put(file);
    {
      auto begun = NewFile::beside(file);
      NewFile out = std::move(begun).value();
      FaultyCalls calls({0, Fault::How::Once});
      QCOMPARE(out.writeSome("half", 4), -1L);
      QCOMPARE(out.writeSome("half", 4), 4L); // the library goes on as if nothing were
      const auto synced = out.sync();
      QVERIFY(!synced.ok() && synced.error().text().find("No space left") != std::string::npos);
      QVERIFY(!out.putInPlace(Replace::Yes).ok());
    }
    QCOMPARE(*readFile(file, 100), std::string("precious"));
  }

  void aLockIsHeldByOneAndFreeAfterItsEnd() {
    const fs::path folder = fresh("lock");
    auto first = FolderLock::take(folder);
    QVERIFY(first.state == FolderLock::State::Held);
    const auto second = FolderLock::take(folder);
    QVERIFY(second.state == FolderLock::State::Busy && second.holder);
    QCOMPARE(second.holder->process, std::int64_t(::getpid()));
    QVERIFY(!second.holder->host.empty() && second.holder->since > 1'600'000'000);
    first.lock.reset();
    QVERIFY(!fs::exists(folder / "lock"));
    QVERIFY(FolderLock::take(folder).state == FolderLock::State::Held);
  }

  void aLockOfAKilledProcessIsStale() {
    const fs::path folder = fresh("stale");
    const pid_t child = ::fork();
    if (child == 0) {
      const auto taken = FolderLock::take(folder);
      ::_exit(taken.state == FolderLock::State::Held ? 0 : 1); // without letting go
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    QCOMPARE(WEXITSTATUS(status), 0);
    QVERIFY(fs::exists(folder / "lock"));
    QVERIFY(FolderLock::take(folder).state == FolderLock::State::Held);
  }

  void aLockOfAnotherMachineCountsAsLongAsItIsRefreshed() {
    const fs::path folder = fresh("far");
    put(folder / "lock", "Tuvvo has this folder open\nhost: far quay\nprocess: 7\nsince: 5\n");
    const auto busy = FolderLock::take(folder);
    QVERIFY(busy.state == FolderLock::State::Busy && busy.holder->host == "far quay");
    makeOld(folder);
    QVERIFY(FolderLock::take(folder).state == FolderLock::State::Held);
    put(folder / "lock", std::string("\0\xff nonsense", 11)); // damaged: nobody's
    QVERIFY(FolderLock::take(folder).state == FolderLock::State::Held);
  }

  void freshFoldersAreNeverShared() {
    const fs::path above = fresh("above");
    std::vector<std::thread> threads;
    std::mutex mutex;
    std::set<std::string> made;
    for (int t = 0; t < 4; ++t)
      threads.emplace_back([&] {
        for (int i = 0; i < 20; ++i) {
          const auto folder = makeFreshFolder(above, "Untitled", ".tuvvo");
          const std::lock_guard lock(mutex);
          if (folder) made.insert(folder->string());
        }
      });
    for (auto& thread : threads) thread.join();
    QCOMPARE(made.size(), std::size_t(80));
  }

  void whatAJobThrowsEndsThatJobAlone() {
    std::mutex mutex;
    std::vector<std::string> said;
    std::atomic<int> done{0};
    {
      JobPool pool(2, [&](const Error& error) {
        const std::lock_guard lock(mutex);
        said.push_back(error.text());
      });
      pool.run([](JobContext&) { throw std::bad_alloc(); });
      pool.run([](JobContext&) { throw std::runtime_error("a reason"); });
      pool.run([](JobContext&) { throw std::bad_alloc(); }, [&](const Error&) { ++done; });
      for (int i = 0; i < 4; ++i) pool.run([&](JobContext&) { ++done; });
      pool.waitIdle();
    }
    QCOMPARE(done.load(), 5);
    QCOMPARE(said.size(), std::size_t(2));
    std::sort(said.begin(), said.end());
    QVERIFY(said[0].find("a reason") != std::string::npos);
    QVERIFY(said[1].find("more memory") != std::string::npos);
  }

  void messagesBlameWhatHappened() {
    QVERIFY(discError("Writing", "x", ENOSPC).remedy.find("Make room") != std::string::npos);
    for (int code : {EACCES, EROFS, ENOENT, EIO, EFBIG, ENAMETOOLONG})
      QVERIFY(discError("Writing", "x", code).remedy.find("Make room") == std::string::npos);
  }
};

QTEST_APPLESS_MAIN(TestKeeping)
#include "tst_keeping.moc"
