// MIDI files as patterns and patterns as MIDI files; read back by another program (midicsv).
#include "base/random.h"
#include "beat/pattern_edits.h"
#include "formats/shipped.h"
#include "formats/smf_beat.h"
#include "midi/percussion.h"
#include "song/timeline.h"
#include "support.h"

#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

using Bytes = std::vector<std::uint8_t>;

/// A file's bytes: one header and tracks.
struct SmfBytes {
  Bytes all;
  SmfBytes(int type, int division) {
    const Bytes header{'M',
                       'T',
                       'h',
                       'd',
                       0,
                       0,
                       0,
                       6,
                       0,
                       std::uint8_t(type),
                       0,
                       0,
                       std::uint8_t(division >> 8),
                       std::uint8_t(division)};
    all = header;
  }
  void track(Bytes events) {
    for (std::uint8_t b : {0x00, 0xff, 0x2f, 0x00}) events.push_back(b);
    ++all[11];
    for (char c : {'M', 'T', 'r', 'k'}) all.push_back(std::uint8_t(c));
    for (int shift : {24, 16, 8, 0}) all.push_back(std::uint8_t(events.size() >> shift));
    all.insert(all.end(), events.begin(), events.end());
  }
};

} // namespace

class TestSmf : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  NewProject m_fresh;
  int m_files = 0;

  std::filesystem::path fresh() {
    return m_dir.filePath(QString::number(++m_files) + ".mid").toStdString();
  }
  std::filesystem::path write(const Bytes& bytes) {
    const auto path = fresh();
    std::ofstream(path, std::ios::binary)
        .write(reinterpret_cast<const char*>(bytes.data()), std::streamsize(bytes.size()));
    return path;
  }
  Result<SmfBeat> read(const Bytes& bytes, const SmfReading& reading = {}) {
    return readSmfBeat(write(bytes), m_fresh.project, "read", reading);
  }
  Id keyOf(Row row, int column) { return keyAt(m_fresh.project, row, column, 0)->id; }

  struct CsvEvent {
    int track = 0;
    std::int64_t at = 0;
    QString kind;
    QStringList rest;
  };
  /// What midicsv (John Walker; Debian's package) reads in a file.
  std::vector<CsvEvent> csvOf(const std::filesystem::path& path) {
    QProcess process;
    process.start("midicsv", {QString::fromStdString(path.string())});
    process.waitForFinished(20'000);
    std::vector<CsvEvent> out;
    for (const auto& line : QString::fromUtf8(process.readAllStandardOutput()).split('\n')) {
      QStringList words = line.split(", ");
      if (words.size() < 3) continue;
      CsvEvent event{words[0].toInt(), words[1].toLongLong(), words[2], words.mid(3)};
      out.push_back(event);
    }
    return out;
  }

private slots:
  void initTestCase() {
    JobContext job;
    m_fresh = newProject(TUVVO_DATA_DIR, job);
    QVERIFY(m_fresh.warnings.empty());
  }

  // Percussion notes by General MIDI; running status; a tempo and a meter of the file's own.
  void percussionGoesToTheDeck() {
    SmfBytes file(0, 96);
    file.track({0,  0xff, 0x51, 3,   0x0a, 0x2c, 0x2b,    // 666 667 µs: 90 BPM
                0,  0xff, 0x58, 4,   7,    3,    24,   8, // 7/8
                0,  0x99, 36,   100, 48,   42,   80,      // kick, half a beat later a hat
                48, 38,   127,  0,   36,   0});           // a beat in: snare; the kick ends
    const auto read = this->read(file.all);
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QVERIFY(std::abs(read->tempo.value - 90) < 0.001);
    QCOMPARE(read->pattern.meter, (Meter{7, 8}));
    QCOMPARE(read->pattern.bars, 1);
    QVERIFY(read->warnings.empty());
    const auto hit = [&](Row row, int column) {
      const Key* key = findKey(m_fresh.project, keyOf(row, column));
      return findLane(read->pattern, key->part)->hits.at(0);
    };
    QCOMPARE(hit(Row::Floor, 0).at, Beats(0));
    QVERIFY(std::abs(hit(Row::Floor, 0).velocity - 100 / 127.0) < 1e-9);
    QCOMPARE(hit(Row::Air, 0).at, Beats(kTicksPerBeat / 2));
    QCOMPARE(hit(Row::Body, 0).at, wholeBeats(1));
    QCOMPARE(hit(Row::Body, 0).velocity, 1.0);
  }

  // Tracks of a file of type 1 sound together; a third of a beat has its own tick on a grid of
  // sixteenths, as a micro-timing.
  void everyHitSoundsOnItsOwnTick() {
    SmfBytes file(1, 480);
    file.track({0, 0xff, 0x51, 3, 7, 0xa1, 0x20});
    file.track({0x81, 0x20, 0x99, 42, 90, 10, 42, 91}); // at 160, and 10 ticks after it
    file.track({0x83, 0x60, 0x99, 36, 90});             // at 480
    const auto read = this->read(file.all);
    QVERIFY(read.ok());
    const Pattern& p = read->pattern;
    const Key* hat = findKey(m_fresh.project, keyOf(Row::Air, 0));
    Project project = m_fresh.project;
    project.tempo = read->tempo;
    const ResolvedTiming timed(project, p, hat->part);
    const auto& hits = findLane(p, hat->part)->hits;
    QCOMPARE(hits.size(), std::size_t(2));
    std::vector<double> heard;
    for (const auto& hit : hits) heard.push_back(timed.heardAt(hit) * 480 / double(kTicksPerBeat));
    std::sort(heard.begin(), heard.end());
    QVERIFY(std::abs(heard[0] - 160) < 0.01);
    QVERIFY(std::abs(heard[1] - 170) < 0.05);
  }

  // Time in frames of film: 25 a second, 40 ticks each, are milliseconds (Standard MIDI Files 1.0,
  // its own example).
  void timeInFramesOfFilmIsRead() {
    SmfBytes file(0, 0xe728);
    file.track({0, 0x99, 36, 100,         // kick
                0x83, 0x74, 0x99, 42, 80, // 500 ms later a hat
                0x83, 0x74, 0x99, 38, 127});
    const auto read = this->read(file.all);
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    Project project = m_fresh.project;
    project.tempo = read->tempo;
    const double ticksPerS = read->tempo.value / 60 * double(kTicksPerBeat);
    for (const auto& [row, seconds] :
         {std::pair{Row::Floor, 0.0}, {Row::Air, 0.5}, {Row::Body, 1.0}}) {
      const Key* key = findKey(m_fresh.project, keyOf(row, 0));
      const ResolvedTiming timed(project, read->pattern.meter, *findLane(read->pattern, key->part));
      const double at = timed.heardAt(findLane(read->pattern, key->part)->hits.at(0)) / ticksPerS;
      QVERIFY2(std::abs(at - seconds) < 0.001, qPrintable(QString::number(at)));
    }
  }

  void tonesGoToTheChosenKey() {
    SmfBytes file(0, 96);
    file.track({0, 0x90, 60, 90, 96, 0x80, 60, 0, 0, 0x90, 67, 90, 48, 0x80, 67, 0});
    QVERIFY(!read(file.all).ok()); // nobody plays them
    const Key* key = findKey(m_fresh.project, keyOf(Row::Floor, 3));
    const auto found = read(file.all, {key->id, 4});
    QVERIFY2(found.ok(), found.ok() ? "" : found.error().text().c_str());
    const auto& hits = findLane(found->pattern, key->part)->hits;
    QCOMPARE(hits.size(), std::size_t(2));
    QCOMPARE(hits[1].tune.value - hits[0].tune.value, 7.0);
    QCOMPARE(hits[0].length, wholeBeats(1));
    QCOMPARE(hits[1].length, Beats(kTicksPerBeat / 2));
  }

  void filesThatEndedTheProgramAreMessages() {
    for (const char* name : {"meta-cut-off.mid", "system-exclusive.mid"}) {
      const auto read = readSmfBeat(std::string(TUVVO_TEST_DIR) + "/fuzz/seeds/midi/" + name,
                                    m_fresh.project, "x", {});
      QVERIFY2(!read.ok() && !read.error().remedy.empty(), name);
    }
  }

  void runningStatusSystemExclusiveAndStrangeChunksAreRead() {
    // By the standard: running status ends at a system exclusive or meta event; unknown chunks are
    // passed over; a longer header is read as far as it is known.
    const auto read = readSmfBeat(std::string(TUVVO_TEST_DIR) + "/fuzz/seeds/midi/two-notes.mid",
                                  m_fresh.project, "x", {});
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    std::size_t hits = 0;
    for (const auto& lane : read->pattern.lanes) hits += lane.hits.size();
    QCOMPARE(hits, std::size_t(2)); // its two drums; the tone has no key
    QCOMPARE(read->tempo.value, 120.0);
    const Bytes file{'M', 'T', 'h', 'd', 0,   0,   0, 8,    0,  0,   0, 1,    0,    96,
                     9,   9,   'X', 'F', 'I', 'H', 0, 0,    0,  2,   1, 2,    'M',  'T',
                     'r', 'k', 0,   0,   0,   8,   0, 0x99, 36, 100, 0, 0xff, 0x2f, 0};
    QVERIFY(this->read(file).ok());
    Bytes orphan = file; // data without a status
    orphan[35] = 36;
    QVERIFY(!this->read(orphan).ok());
  }

  void badFilesSaySo() {
    SmfBytes good(0, 96);
    good.track({0, 0x99, 36, 100, 48, 42, 80});
    QVERIFY(read(good.all).ok());
    for (std::size_t length = 0; length + 1 < good.all.size(); ++length)
      QVERIFY(!read({good.all.begin(), good.all.begin() + std::ptrdiff_t(length)}).ok());
    Bytes bad = good.all;
    bad[21] = 0xff; // a track longer than the file
    QVERIFY(!read(bad).ok());
    const auto huge = fresh();
    std::ofstream(huge).close();
    std::filesystem::resize_file(huge, 9u << 20);
    const auto large = readSmfBeat(huge, m_fresh.project, "x", {});
    QVERIFY(!large.ok());
    QVERIFY(large.error().what.find("8 MB") != std::string::npos);
    QVERIFY(!large.error().remedy.empty());
    // A tempo of nothing, a meter of nothing: passed over.
    SmfBytes zero(0, 96);
    zero.track({0, 0xff, 0x51, 3, 0, 0, 0, 0, 0xff, 0x58, 4, 0, 9, 24, 8, 0, 0x99, 36, 100});
    const auto passed = read(zero.all);
    QVERIFY(passed.ok());
    QCOMPARE(passed->tempo.value, 120.0);
    QCOMPARE(passed->pattern.meter, (Meter{4, 4}));
    // Any bytes at all do no harm.
    Random random(9);
    for (int i = 0; i < 300; ++i) {
      Bytes wild = good.all;
      for (int k = 0; k < 4; ++k)
        wild[14 + std::size_t(random.next() % (wild.size() - 14))] = std::uint8_t(random.next());
      (void)read(wild);
    }
  }

  void aMillionEventsAndLongFilesAreBounded() {
    SmfBytes file(0, 96);
    Bytes events{0, 0x99};
    for (int i = 0; i < 500'000; ++i)
      for (std::uint8_t b : {std::uint8_t(i % 2), std::uint8_t(36), std::uint8_t(i % 2 ? 0 : 90)})
        events.push_back(b);
    events.erase(events.begin() + 2); // the first delta stands there already
    file.track(events);
    const auto read = this->read(file.all);
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QCOMPARE(read->pattern.bars, kMostBars);
    QVERIFY(!read->warnings.empty());
    // A change of tempo and of meter is said.
    SmfBytes changes(0, 96);
    changes.track({0,  0xff, 0x51, 3,    7,  0xa1, 0x20, 0,    0xff, 0x58, 4,  4,    2,
                   24, 8,    0,    0x99, 36, 90,   96,   0xff, 0x51, 3,    6,  0xa1, 0x20,
                   0,  0xff, 0x58, 4,    3,  2,    24,   8,    0,    0x99, 36, 90});
    const auto changed = this->read(changes.all);
    QVERIFY(changed.ok());
    QCOMPARE(changed->warnings.size(), std::size_t(2));
  }

  // Out, and in another program's eyes: every hit of the demo's patterns, as it is heard.
  void anotherReaderSeesWhatIsHeard() {
    JobContext job;
    const auto demo = shippedDemo(TUVVO_DATA_DIR, job);
    QVERIFY(demo.ok());
    for (const auto& pattern : demo->patterns) {
      const Score score = compilePattern(*demo, pattern->id);
      const auto path = fresh();
      QVERIFY(writeSmf(score, *demo, false, path, Freely{}).ok());
      std::multiset<std::int64_t> wanted, seen;
      for (const auto& event : score.events)
        wanted.insert(std::llround(double(event.frame.value) /
                                   score.tempo.framesPerBeat(kEngineRate) * kSmfTicks));
      for (const auto& event : csvOf(path))
        if (event.kind == "Note_on_c") {
          seen.insert(event.at);
          QVERIFY(event.rest[2].toInt() >= 1);
        }
      QCOMPARE(seen.size(), wanted.size());
      QVERIFY(seen == wanted);
    }
  }

  void theSongHasItsMarkersAndMeters() {
    auto c = clickProject({0, 1}, 96, 1);
    Pattern seven = *c.project.patterns[0];
    seven.meter = {7, 8};
    Id added = 0;
    Project p = withPattern(c.project, seven, &added);
    p = withSectionChanged(p, p.sections[0].id, [](Section& s) { s.name = "Fog"; });
    Section s;
    s.pattern = added;
    s.name = "Lamps";
    s.bars = 2;
    p = withSection(p, s, 9);
    const auto path = fresh();
    QVERIFY(writeSmf(compileSong(p), p, true, path, Freely{}).ok());
    QStringList seen;
    for (const auto& event : csvOf(path))
      if (QStringList{"Tempo", "Time_signature", "Marker_t", "Header"}.contains(event.kind))
        seen << QString("%1 %2 %3").arg(event.at).arg(event.kind, event.rest.join(' '));
    QCOMPARE(seen.size(), 6);
    for (const char* line :
         {"0 Header 1 2 960", "0 Tempo 625000", "0 Time_signature 4 2 24 8",
          "3840 Time_signature 7 3 12 8", "0 Marker_t \"Fog\"", "3840 Marker_t \"Lamps\""})
      QVERIFY2(seen.contains(line), line);
  }

  // Out and in again: the same hits at the same places, as hard as before.
  void outAndInIsTheSame() {
    Random random(17);
    Project project = m_fresh.project;
    project.tempo = Bpm(87);
    Pattern pattern;
    pattern.bars = 4;
    const std::array<std::pair<Row, int>, 3> drums{
        std::pair{Row::Floor, 0}, {Row::Body, 0}, {Row::Air, 0}};
    for (const auto& [row, column] : drums) {
      const Key* key = findKey(project, keyOf(row, column));
      Lane& lane = laneOf(pattern, key->part);
      lane.feel.swing16 = 50 + 12 * random.unit();
      lane.feel.microTiming = Milliseconds(6 * random.unit());
      lane.feel.accent = AccentShape::Backbeats;
      lane.feel.accentDepth = 0.3;
      for (int i = 0; i < 40; ++i) {
        Hit hit;
        hit.at = Beats(kTicksPerBeat / 4 * std::int64_t(1 + random.next() % 62));
        hit.key = key->id;
        hit.velocity = 0.1 + 0.9 * random.unit();
        hit.microTiming = Milliseconds(10 * random.bipolar());
        pattern = withHit(std::move(pattern), key->part, hit);
      }
      laneOf(pattern, key->part).hits.front().roll = {3, Beats(kTicksPerBeat / 12), 0.5, {}};
    }
    Id first = 0, second = 0;
    project = withPattern(std::move(project), pattern, &first);
    const Score out = compilePattern(project, first);
    const auto path = fresh();
    QVERIFY(writeSmf(out, project, false, path, Freely{}).ok());
    const auto read = readSmfBeat(path, project, "again", {});
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QVERIFY(read->warnings.empty());
    QVERIFY(std::abs(read->tempo.value - 87) < 0.001); // whole microseconds to a beat
    project = withPattern(std::move(project), read->pattern, &second);
    const Score in = compilePattern(project, second);
    QCOMPARE(in.events.size(), out.events.size());
    const double tick = out.tempo.framesPerBeat(kEngineRate) / kSmfTicks;
    for (const auto& event : out.events)
      QVERIFY(std::any_of(in.events.begin(), in.events.end(), [&](const ScoreEvent& again) {
        return again.patch == event.patch &&
               std::abs(double((again.frame - event.frame).value)) <= tick / 2 + 1 &&
               std::abs(std::sqrt(again.gain) - std::sqrt(event.gain)) <= 0.5f / 127 + 1e-4f;
      }));
  }

  void whereNothingCanBeWrittenItSaysSo() {
    auto c = clickProject({0}, 96, 1);
    const auto bad = writeSmf(compilePattern(c.project, c.pattern), c.project, false,
                              "/nowhere/at/all.mid", Freely{});
    QVERIFY(!bad.ok());
    QVERIFY(!bad.error().remedy.empty());
  }
};

QTEST_APPLESS_MAIN(TestSmf)
#include "tst_smf.moc"
