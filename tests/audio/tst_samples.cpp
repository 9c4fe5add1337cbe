#include "audio/decode.h"
#include "audio/encode.h"
#include "audio/peaks.h"
#include "audio/prefetch.h"
#include "patience.h"
#include "support.h"

#include <QtTest>
#include <csignal>
#include <fcntl.h>
#include <fstream>
#include <sys/resource.h>
#include <thread>
#include <unistd.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr std::size_t kMega = std::size_t(1) << 20;

/// What of files this process has in memory, in bytes; proc(5), statm.
std::size_t fromFiles() {
  std::size_t all = 0, resident = 0, shared = 0;
  std::ifstream("/proc/self/statm") >> all >> resident >> shared;
  return shared * 4096;
}

/// Different at every place.
float valueAt(std::size_t i) { return float(i % 16777213) / 16777216.0f; }

bool holds(std::span<const float> samples) {
  for (std::size_t i = 0; i < samples.size(); ++i)
    if (samples[i] != valueAt(i)) return false;
  return true;
}

Samples filled(std::size_t count) {
  Samples out(count);
  for (std::size_t i = 0; i < count; ++i) out[i] = valueAt(i);
  return out;
}

} // namespace

/// Long samples lie in files; nobody who reads or writes them can tell.
class TestSamples : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;

private slots:
  void init() { setLongSampleFolder(m_dir.path().toStdString()); }
  void cleanup() {
    QCOMPARE(longSamplesInFiles(), std::size_t(0));
    QVERIFY(QDir(m_dir.path()).isEmpty()); // nothing is left behind
  }

  void shortOnesAreMemory() {
    const Samples some = filled(kLong / sizeof(float) - 1);
    QCOMPARE(longSamplesInFiles(), std::size_t(0));
    QVERIFY(holds(some));
  }

  void longOnesKeepWhatWasWritten() {
    const std::size_t count = 160 * kMega / sizeof(float);
    const Samples one = filled(count);
    QVERIFY(longSamplesInFiles() >= count * sizeof(float));
    QVERIFY(QDir(m_dir.path()).isEmpty()); // without a name: gone even after a crash
    Samples two = one;
    QVERIFY(holds(one) && holds(two));
    two[7] = -1;
    QCOMPARE(one[7], valueAt(7));
  }

  void growingKeepsWhatIsThere() {
    Samples grown;
    Samples block(100'000);
    for (std::size_t at = 0; at < 40 * kMega; at += block.size()) {
      for (std::size_t i = 0; i < block.size(); ++i) block[i] = valueAt(at + i);
      grown.insert(grown.end(), block.begin(), block.end());
    }
    QVERIFY(longSamplesInFiles() >= 160 * kMega);
    QVERIFY(holds(grown));
  }

  void whatIsNotTouchedIsLetGo() {
    const std::size_t before = fromFiles();
    const Samples one = filled(400 * kMega / sizeof(float));
    EVENTUALLY(fromFiles() < before + 2 * kAllowed);
    QVERIFY(holds(one)); // and comes back
    EVENTUALLY(fromFiles() < before + 2 * kAllowed);
    QVERIFY(holds(std::span(one).first(1000)));
  }

  void whatIsKeptStaysWhileOthersGo() {
    const Samples one = filled(200 * kMega / sizeof(float));
    const auto kept = std::span(one).subspan(one.size() / 2, 16'384);
    QVERIFY(liesInFile(one) && liesInFile(kept));
    const auto inMemory = [](std::span<const float> samples) { // mincore(2) is about the file's
      const int maps = ::open("/proc/self/pagemap", O_RDONLY); // pages, this about ours
      int there = 0;
      for (std::size_t at = 0; at < samples.size(); at += 1024) {
        std::uint64_t entry = 0;
        const auto place = std::uintptr_t(samples.data() + at) / 4096 * 8;
        if (::pread(maps, &entry, 8, off_t(place)) != 8) there = -1'000'000;
        there += entry >> 63 ? 1 : 0; // proc_pid_pagemap(5): bit 63, page present
      }
      ::close(maps);
      return there;
    };
    keepSamples(kept);
    keepSamples(kept);
    letGoOfSamples(kept); // it was kept twice
    QCOMPARE(inMemory(kept), 16);
    // AddressSanitizer makes mlock(2) do nothing, and a person may be allowed none: then the system
    // may take a page that was touched once.
    QFile status("/proc/self/status");
    QVERIFY(status.open(QIODevice::ReadOnly));
    if (status.readAll().contains("VmLck:\t       0 kB")) QSKIP("nothing can be locked here");
    const std::size_t before = fromFiles();
    QVERIFY(holds(filled(300 * kMega / sizeof(float)))); // all else has to make room
    EVENTUALLY(fromFiles() < before + 2 * kAllowed);
    QCOMPARE(inMemory(kept), 16);
    QVERIFY(inMemory(std::span(one).first(1024 * 1000)) < 1000);
    letGoOfSamples(kept);
    letGoOfSamples(kept); // once too often does no harm
    keepSamples({});
    const Samples little(1000);
    QVERIFY(!liesInFile(little));
    keepSamples(little);
    QVERIFY(holds(kept.first(0)) && kept[0] == valueAt(one.size() / 2));
  }

  void threadsMayShareThem() {
    const Samples one = filled(100 * kMega / sizeof(float));
    std::atomic<int> right{0};
    std::vector<std::thread> threads;
    for (int t = 0; t < 3; ++t)
      threads.emplace_back([&] {
        const Samples own = one;
        keepSamples(std::span(own).first(100'000));
        if (holds(own) && holds(one)) ++right;
      });
    for (auto& thread : threads) thread.join();
    QCOMPARE(right.load(), 3);
  }

  void aFullDiscMeansMemory() {
    // For real, as far as a program can tell: no file may grow past 40 kB.
    rlimit before{};
    QCOMPARE(getrlimit(RLIMIT_FSIZE, &before), 0);
    const auto handler = std::signal(SIGXFSZ, SIG_IGN);
    const rlimit little{40'000, before.rlim_max};
    QCOMPARE(setrlimit(RLIMIT_FSIZE, &little), 0);
    const Samples one = filled(80 * kMega / sizeof(float));
    setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, handler);
    QCOMPARE(longSamplesInFiles(), std::size_t(0));
    QVERIFY(holds(one));
  }

  void aFolderThatIsNotThereMeansMemory() {
    setLongSampleFolder("/proc/no such place");
    const Samples one = filled(70 * kMega / sizeof(float));
    QCOMPARE(longSamplesInFiles(), std::size_t(0));
    QVERIFY(holds(one));
  }

  void aLongFileIsTheSameSound() {
    const std::size_t count = 20 * kMega; // 80 MB a channel
    const auto path = m_dir.filePath("long.flac").toStdString();
    std::string hash;
    {
      Channels channels(2, Samples(count));
      Random random(5);
      for (auto& channel : channels)
        for (float& v : channel) v = float(std::floor(random.bipolar() * 8388607)) / 8388608.0f;
      const Sound sound(std::move(channels), Hertz(48000));
      hash = sound.hash();
      QVERIFY(encodeFile(sound, path, {FileFormat::Flac, SampleFormat::Int24}).ok());
    }
    QCOMPARE(longSamplesInFiles(), std::size_t(0));
    JobContext job;
    auto back = decodeFile(path, job);
    QVERIFY(back.ok());
    QVERIFY(longSamplesInFiles() >= 2 * count * sizeof(float));
    const auto& sound = *back->sound;
    QCOMPARE(sound.frames().value, std::int64_t(count));
    QCOMPARE(sound.hash(), hash);
    const Peaks peaks(sound);
    QVERIFY(peaks.over(sound, Frames(0), sound.frames()).high > 0.9f);
    std::filesystem::remove(path);
  }

  // ---- what the audio thread reads next is in memory before it does ----

  void whatIsReadNextIsReady() {
    constexpr std::int64_t piece = PrefetchedSound::kPiece, all = 1100 * piece;
    const auto sound = makeSound(Samples(std::size_t(all), 0.1f));
    QVERIFY(liesInFile(sound->channel(0)));
    Prefetcher prefetcher;
    const auto held = prefetcher.prefetched(sound);
    QVERIFY(held && prefetcher.prefetched(sound) == held);
    QVERIFY(!prefetcher.prefetched(makeSound(Samples(100, 0.1f)))); // a short one is in memory
    QVERIFY(!held->ready(0, 0));
    auto& reader = prefetcher.reader(3);
    // Two seconds on, at the speed at which it is read; the rest is let go of.
    for (const auto& [at, step] :
         {std::pair{0.0, 1.0}, {100.0, 1.0}, {300.0, 4.0}, {1090.0, 16.0}}) {
      const auto frame = std::int64_t(at * double(piece)), ahead = std::int64_t(96'000 * step);
      reader.frame = frame;
      reader.step = step;
      reader.sound = held.get();
      EVENTUALLY(held->ready(frame - 600, std::min(frame + ahead, all - 1)));
      if (frame + ahead + piece < all)
        QVERIFY(!held->ready(frame + ahead + piece, frame + ahead + piece));
    }
    EVENTUALLY(!held->ready(0, 0) && !held->ready(300 * piece, 300 * piece));
    // What goes round is ready where it begins anew, before it does.
    reader.step = 1;
    reader.frame = 200 * piece;
    reader.loopStart = 50 * piece;
    reader.loopEnd = 200 * piece + 96'000;
    EVENTUALLY(held->ready(200 * piece, 200 * piece + 96'000));
    QVERIFY(!held->ready(50 * piece, 50 * piece));
    reader.frame = 200 * piece + 1;
    EVENTUALLY(held->ready(50 * piece - 600, 50 * piece + 96'000));
    reader.sound = nullptr;
    EVENTUALLY(!held->ready(50 * piece, 50 * piece) && !held->ready(200 * piece, 200 * piece));
    // Heads of keys: half a second of each.
    prefetcher.keepHeads({{held, 400 * piece + 5}});
    EVENTUALLY(held->ready(400 * piece - 595, 400 * piece + 5 + 24'000));
    QVERIFY(!held->ready(403 * piece, 403 * piece));
  }
};

QTEST_APPLESS_MAIN(TestSamples)
#include "tst_samples.moc"
