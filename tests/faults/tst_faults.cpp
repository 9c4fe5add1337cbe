// Every writer under every fault: the n-th write, sync, rename, open, close and mkdir fails, once
// and for good; the n-th allocation fails; the process is killed at the n-th step. After each, what
// was there is whole, or what was to come is; never a third.
#include "audio/decode.h"
#include "crate/crate.h"
#include "crate/marks.h"
#include "faults.h"
#include "formats/bundle.h"
#include "formats/controllers_json.h"
#include "formats/project_json.h"
#include "formats/slices_out.h"
#include "formats/smf_beat.h"
#include "play/print.h"
#include "song/timeline.h"
#include "support.h"

#include <QtTest>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <new>
#include <sys/wait.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace fs = std::filesystem;

namespace {

thread_local long allocationsLeft = -1; ///< until one fails; −1: none does
thread_local bool failsForGood = false, failedOne = false;

bool allocationFails() {
  if (allocationsLeft < 0) return false;
  if (allocationsLeft > 0) {
    --allocationsLeft;
    return false;
  }
  failedOne = true;
  if (!failsForGood) allocationsLeft = -1;
  return true;
}

} // namespace

void* operator new(std::size_t size) {
  if (allocationFails()) throw std::bad_alloc();
  if (void* got = std::malloc(size > 0 ? size : 1)) return got;
  throw std::bad_alloc();
}
void operator delete(void* p) noexcept { std::free(p); }
void operator delete(void* p, std::size_t) noexcept { std::free(p); }

namespace {

/// Something that writes into a folder.
struct Writer {
  const char* name;
  /// What is there before.
  std::function<void(const fs::path&)> prepare;
  /// @returns whether it said that it was done; `said` where it was not
  std::function<Result<void>(const fs::path&)> write;
  /// @returns what is wrong where the folder holds a third state; else nothing
  std::function<std::string(const fs::path&, bool done)> third;
};

/// Any file is as before or as it would be after; those of a history only ever come.
std::string thirdIn(const fs::path& folder, const Snapshot& before, const Snapshot& after) {
  for (const auto& [name, hash] : snapshotOf(folder)) {
    if (name.find("/.tuvvo-") != std::string::npos || name.starts_with(".tuvvo-"))
      continue; // seen to by itself
    const auto old = before.find(name), fresh = after.find(name);
    if ((old == before.end() || old->second != hash) &&
        (fresh == after.end() || fresh->second != hash))
      return name + " is neither as it was nor as it should be";
  }
  for (const auto& [name, hash] : before)
    if (!fs::exists(folder / name) && after.contains(name)) return name + " is gone";
  return {};
}

std::vector<std::string> leftovers(const fs::path& folder) {
  std::vector<std::string> out;
  for (const auto& [name, hash] : snapshotOf(folder))
    if (name.find(".tuvvo-") != std::string::npos && name.ends_with(".part")) out.push_back(name);
  return out;
}

Project before() {
  Project p = clickProject({0}).project;
  p.tempo = Bpm(101);
  return p;
}
Project after() {
  Project p = withSource(before(), sourceOf(drumLoop(240, 1), "added"));
  p.tempo = Bpm(102);
  return p;
}

Project sliced(Id* source) {
  Project p = withSource({}, sourceOf(drumLoop(240, 2), "drums"), source);
  CutSettings settings;
  settings.mode = CutMode::Equal;
  settings.parts = 2;
  const auto half = p.sources[0]->sound->frames().value / 2;
  std::vector<Cut> cuts(2);
  cuts[0].end = cuts[1].start = Frames(half);
  cuts[1].end = Frames(2 * half);
  return withCuts(std::move(p), *source, settings, cuts);
}

} // namespace

class TestFaults : public QObject {
  Q_OBJECT
  std::vector<Writer> m_writers;
  JobContext m_job;

  /// A writer whose whole result is known beforehand.
  void addExact(const char* name, std::function<void(const fs::path&)> prepare,
                std::function<Result<void>(const fs::path&)> write) {
    QTemporaryDir dir;
    const fs::path folder = pathIn(dir, "exact");
    fs::create_directories(folder);
    prepare(folder);
    const Snapshot old = snapshotOf(folder);
    if (!write(folder)) qFatal("%s does not work at all", name);
    const Snapshot fresh = snapshotOf(folder);
    m_writers.push_back({name, prepare, write, [old, fresh](const fs::path& there, bool done) {
                           if (done && snapshotOf(there) != fresh)
                             return std::string("it said it was done");
                           return thirdIn(there, old, fresh);
                         }});
  }

  void addPrint(const char* name, const char* file, FileFormat format, SampleFormat samples) {
    const auto print = [=, this](const fs::path& folder) -> Result<void> {
      PrintFile to{folder / file, format, samples, Hertz(48000)};
      auto printed = printSong(clickProject({0, 1}, 240, 1).project, to, {}, Freely{}, m_job);
      if (!printed) return printed.error();
      return {};
    };
    const auto prepare = [=](const fs::path& folder) {
      std::ofstream(folder / file) << "precious";
    };
    if (format == FileFormat::Wav || format == FileFormat::Flac)
      return addExact(name, prepare, print);
    // Ogg numbers its streams by chance: what is new is known by being whole.
    m_writers.push_back({name, prepare, print, [=, this](const fs::path& folder, bool done) {
                           const auto bytes = readFile(folder / file, 1 << 24);
                           if (bytes && *bytes == "precious" && !done) return std::string();
                           const auto back = decodeFile(folder / file, m_job);
                           if (!back) return back.error().text();
                           if (!back->warnings.empty()) return back->warnings[0];
                           return std::string(back->sound->frames().value >= 48000 ? "" : "short");
                         }});
  }

  /// Either state opens, whole, and every state of the history can be read.
  static std::string thirdProject(const fs::path& folder, bool done) {
    JobContext job;
    const auto opened = openProject(folder, job);
    if (!opened) return opened.error().text();
    if (!opened->warnings.empty()) return opened->warnings[0];
    const double tempo = opened->project.tempo.value;
    if (tempo != 101 && tempo != 102) return "a third tempo";
    if (done && tempo != 102) return "it said it was saved";
    if (tempo == 102 && opened->project.sources.size() != 2) return "half of the new state";
    std::error_code code;
    for (const auto& each : fs::directory_iterator(folder / "history", code)) {
      if (each.path().extension() != ".json") continue;
      const auto bytes = readFile(each.path(), 1 << 24);
      if (!bytes || !projectFromText(*bytes, "x")) return each.path().string() + " is not whole";
    }
    return {};
  }

private slots:
  void initTestCase() {
    const auto saved = [](const fs::path& folder) {
      if (!saveProject(before(), folder, {})) qFatal("cannot save");
    };
    m_writers.push_back({"save", saved,
                         [](const fs::path& folder) -> Result<void> {
                           auto done = saveProject(after(), folder, {1, {}});
                           if (!done) return done.error();
                           return {};
                         },
                         thirdProject});
    m_writers.push_back({"save over somebody's autosave",
                         [saved](const fs::path& folder) {
                           saved(folder);
                           Project other = before();
                           other.tempo = Bpm(101);
                           if (!autosaveProject(other, folder, {1, {}})) qFatal("cannot autosave");
                         },
                         [](const fs::path& folder) -> Result<void> {
                           auto done = saveProject(after(), folder, {1, {}});
                           if (!done) return done.error();
                           return {};
                         },
                         thirdProject});
    m_writers.push_back({"autosave", saved,
                         [](const fs::path& folder) -> Result<void> {
                           auto done = autosaveProject(after(), folder, {1, {}});
                           if (!done) return done.error();
                           return {};
                         },
                         thirdProject});
    addPrint("print WAV", "song.wav", FileFormat::Wav, SampleFormat::Int24);
    addPrint("print float WAV", "song.wav", FileFormat::Wav, SampleFormat::Float32);
    addPrint("print FLAC", "song.flac", FileFormat::Flac, SampleFormat::Int16);
    addPrint("print Ogg", "song.ogg", FileFormat::Ogg, SampleFormat::Int16);
    addPrint("print Opus", "song.opus", FileFormat::Opus, SampleFormat::Int16);
    addPrint("print MP3", "song.mp3", FileFormat::Mp3, SampleFormat::Int16);
    addExact(
        "stems", [](const fs::path& folder) { std::ofstream(folder / "x.flac") << "precious"; },
        [this](const fs::path& folder) -> Result<void> {
          PrintFile like{{}, FileFormat::Flac, SampleFormat::Int16, Hertz(48000)};
          auto done =
              printStems(clickProject({0}, 240, 1).project, folder, like, {}, Freely{}, m_job);
          if (!done) return done.error();
          return {};
        });
    for (FileFormat format : {FileFormat::Wav, FileFormat::Flac})
      addExact(
          format == FileFormat::Wav ? "slices as WAV" : "slices as FLAC with cues",
          [](const fs::path& folder) { std::ofstream(folder / "drums.sfz") << "precious"; },
          [this, format](const fs::path& folder) -> Result<void> {
            Id source = 0;
            const Project p = sliced(&source);
            SlicesOut options;
            options.folder = folder / "new" / "slices";
            options.format = format;
            auto done = writeSlices(p, source, options, Freely{}, m_job);
            if (!done) return done.error();
            return {};
          });
    addExact(
        "MIDI", [](const fs::path& folder) { std::ofstream(folder / "x.mid") << "precious"; },
        [](const fs::path& folder) -> Result<void> {
          const Project p = clickProject({0, 1}, 120, 1).project;
          return writeSmf(compileSong(p), p, true, folder / "x.mid", Freely{});
        });
    addExact(
        "papers",
        [](const fs::path& folder) { std::ofstream(folder / "papers.json") << "precious"; },
        [](const fs::path& folder) -> Result<void> {
          CrateExport all;
          all.folders = {"/quay"};
          all.marks[std::string(32, 'a')].stars = 4;
          return writeFileAtomically(folder / "papers.json", exportText(all));
        });
    addExact(
        "controllers",
        [](const fs::path& folder) { std::ofstream(folder / "c.json") << "precious"; },
        [](const fs::path& folder) -> Result<void> {
          Controllers taught;
          taught["pads"].wanted = false;
          return writeFileAtomically(folder / "c.json", controllersToText(taught));
        });
  }

  void theNthCallFails_data() { rows(); }
  void theNthCallFails() {
    const Writer& writer = chosen();
    for (auto how : {Fault::How::Once, Fault::How::ForGood}) {
      bool through = false;
      for (int n = 0; n < 2000 && !through; ++n) {
        QTemporaryDir dir;
        const fs::path folder = pathIn(dir, "f");
        fs::create_directories(folder);
        writer.prepare(folder);
        Result<void> done;
        {
          FaultyCalls calls({n, how});
          done = writer.write(folder);
          through = !calls.reached();
        }
        const std::string third = writer.third(folder, done.ok());
        QVERIFY2(third.empty(), (third + " (call " + std::to_string(n) + ")").c_str());
        QVERIFY2(leftovers(folder).empty(), "a half-written file stays");
        if (done) continue;
        const QString said = QString::fromStdString(done.error().text());
        QVERIFY2(said.contains("No space left on device") && said.contains("Make room"),
                 qPrintable(said));
      }
      QVERIFY(through);
    }
  }

  void killedAtTheNthCall_data() { rows(); }
  void killedAtTheNthCall() {
    const Writer& writer = chosen();
    bool through = false;
    int kills = 0;
    for (int n = 0; n < 2000 && !through; ++n) {
      QTemporaryDir dir;
      const fs::path folder = pathIn(dir, "k");
      fs::create_directories(folder);
      writer.prepare(folder);
      const pid_t child = ::fork();
      if (child == 0) {
        FaultyCalls calls({n, Fault::How::Kill});
        ::_exit(writer.write(folder).ok() ? 0 : 3);
      }
      int status = 0;
      ::waitpid(child, &status, 0);
      QVERIFY(WIFEXITED(status) && WEXITSTATUS(status) != 3);
      through = WEXITSTATUS(status) == 0;
      kills += !through;
      const std::string third = writer.third(folder, through);
      QVERIFY2(third.empty(), (third + " (call " + std::to_string(n) + ")").c_str());
      // What was half-written goes at the next start, and nothing else.
      makeOld(folder);
      for (const auto& each : fs::recursive_directory_iterator(folder))
        if (each.is_directory()) removeLeftovers(each.path());
      removeLeftovers(folder);
      QVERIFY(leftovers(folder).empty());
      const std::string cleaned = writer.third(folder, through);
      QVERIFY2(cleaned.empty(), cleaned.c_str());
    }
    QVERIFY(through && kills >= 5); // opened, written, synced, closed, renamed
  }

  void theNthAllocationFails_data() { rows(); }
  void theNthAllocationFails() {
    const Writer& writer = chosen();
    QTemporaryDir dir;
    int ended = 0;
    for (bool forGood : {false, true}) {
      bool through = false;
      int tried = 0;
      // Every one of the first hundred, then with growing steps: a print has a hundred thousand.
      for (long n = 0; !through; n += n < 100 ? 1 : n / 20) {
        const fs::path folder = pathIn(dir, ("a" + std::to_string(tried++)).c_str());
        fs::create_directories(folder);
        writer.prepare(folder);
        // In a process of its own: values of the JSON library ask for memory where they end, and
        // where there is none then, the program does. What is on the disc has to stand even so.
        const pid_t child = ::fork();
        if (child == 0) {
          (void)::freopen("/dev/null", "w", stderr);
          const auto handler = [](int) { ::_exit(4); };
          ::signal(SIGABRT, handler);
          failsForGood = forGood;
          allocationsLeft = n;
          Result<void> done;
          try {
            done = writer.write(folder);
          } catch (const std::bad_alloc&) { // outside what is tested: the test's own values
            done = Error{"outside", {}, {}};
          }
          allocationsLeft = -1;
          const bool said = done.ok() || !done.error().what.empty();
          ::_exit(!said ? 5 : !failedOne ? 0 : done.ok() ? 1 : leftovers(folder).empty() ? 2 : 3);
        }
        int status = 0;
        ::waitpid(child, &status, 0);
        QVERIFY(WIFEXITED(status));
        const int code = WEXITSTATUS(status);
        QVERIFY2(code != 3, "a half-written file stays");
        QVERIFY2(code != 5, "it failed without a word");
        QVERIFY2(code <= 4, qPrintable(QString("ended with %1 at allocation %2").arg(code).arg(n)));
        ended += code == 4;
        through = code == 0;
        const std::string third = writer.third(folder, code <= 1);
        QVERIFY2(third.empty(), (third + " (allocation " + std::to_string(n) + ")").c_str());
        fs::remove_all(folder);
        QVERIFY(n < 10'000'000);
      }
    }
    if (ended > 0) qInfo("%s: the program ended %d times", writer.name, ended);
  }

private:
  void rows() {
    QTest::addColumn<int>("place");
    for (std::size_t i = 0; i < m_writers.size(); ++i) QTest::newRow(m_writers[i].name) << int(i);
  }
  const Writer& chosen() {
    QFETCH(int, place);
    return m_writers[std::size_t(place)];
  }
};

QTEST_APPLESS_MAIN(TestFaults)
#include "tst_faults.moc"
