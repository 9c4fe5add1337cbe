// Slices for other programs, read back by other readers than the one that wrote them: chunks by
// their published layouts, FLAC by metaflac and TagLib, SFZ word by word.
#include "audio/decode.h"
#include "cut/slice_levels.h"
#include "formats/riff.h"
#include "formats/slices_out.h"
#include "model/edits.h"
#include "support.h"

#include <QProcess>
#include <QTest>
#include <csignal>
#include <flacfile.h>
#include <fstream>
#include <sndfile.h>
#include <sstream>
#include <sys/resource.h>
#include <xiphcomment.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

std::string bytesOf(const std::filesystem::path& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

} // namespace

class TestSlicesOut : public QObject {
  Q_OBJECT

  QTemporaryDir m_dir;
  JobContext m_job;

  /// A loop of drums in four slices, the second of which goes round.
  Project fourSlices(Id* source) {
    Source s = sourceOf(drumLoop(120, 4, 48000), "quay drums");
    s.corrections.tempo = Bpm(120);
    s.corrections.key = KeyName{9, true};
    Project p;
    p.tempo = Bpm(96);
    p = withSource(std::move(p), s, source);
    CutSettings settings;
    settings.mode = CutMode::Equal;
    std::vector<Cut> cuts;
    for (int i = 0; i < 4; ++i) {
      Cut cut;
      cut.start = Frames(i * 24000);
      cut.end = Frames((i + 1) * 24000);
      cuts.push_back(cut);
    }
    p = withCuts(std::move(p), *source, settings, cuts);
    const auto keys = slicesOf(p, *source);
    p = withKeyChanged(p, keys[1], [](Key& k) {
      k.loop = {true, 0.25, 0.75, Milliseconds(20)};
      k.level = Decibels(-3);
      k.pan = 0.5;
      k.tune = Semitones(2);
      k.fine = Cents(30);
      k.highPass = Hertz(200);
      k.lowPass = Hertz(4000);
      k.envelope.attack = Milliseconds(5);
      k.envelope.hold = Milliseconds(50);
    });
    return withKeyChanged(p, keys[2], [](Key& k) { k.name = "wet rope"; });
  }

private slots:
  void wavesCarryCuesAndLoops() {
    Id source = 0;
    const Project p = fourSlices(&source);
    SlicesOut options;
    options.folder = m_dir.filePath("wav").toStdString();
    const auto written = writeSlices(p, source, options, Freely{}, m_job);
    QVERIFY2(written.ok(), written.ok() ? "" : written.error().text().c_str());
    QCOMPARE(int(written->size()), 6); // four, the whole, the instrument
    const auto names = [&](std::size_t i) { return (*written)[i].path.filename().string(); };
    QCOMPARE(names(0), std::string("quay drums 001 1.1 120bpm Am.wav"));
    QCOMPARE(names(2), std::string("quay drums 003 wet rope 120bpm Am.wav"));
    // smpl (Microsoft and IBM, Multimedia Programming Interface 1.0 and its sampler addition):
    // nine words, then for each loop id, type, start, end (the last frame played), fraction, count.
    const std::string smpl = chunkOf(bytesOf((*written)[1].path), "smpl");
    QCOMPARE(word(smpl, 12), 60u); // root note
    QCOMPARE(word(smpl, 28), 1u);
    QCOMPARE(word(smpl, 36 + 4), 0u); // forward
    QCOMPARE(word(smpl, 36 + 8), 6000u);
    QCOMPARE(word(smpl, 36 + 12), 17999u);
    QVERIFY(chunkOf(bytesOf((*written)[0].path), "smpl").empty());
    // cue: a count, then for each id, position, chunk, chunk start, block start, frame.
    const std::string cue = chunkOf(bytesOf((*written)[4].path), "cue ");
    QCOMPARE(word(cue, 0), 4u);
    for (std::uint32_t i = 0; i < 4; ++i) QCOMPARE(word(cue, 4 + 24 * i + 20), i * 24000u);
    // Nothing of the sound is lost or moved: the whole is the source.
    const auto whole = decodeFile((*written)[4].path, m_job);
    QCOMPARE(whole->sound->frames().value, findSource(p, source)->sound->frames().value);
  }

  /// Written as cut and without fades, a slice is the source from its first frame to its last.
  void eachSliceIsItsStretchOfTheSource() {
    Id id = 0;
    Project p = fourSlices(&id);
    p = withSourceChanged(std::move(p), id, [](Source& source) {
      for (auto& cut : source.cuts) cut.fadeIn = cut.fadeOut = Milliseconds(0);
      source.cuts[1].start = Frames(24'007); // no round figure, and a gap before it
      source.cuts[1].end = Frames(47'991);
    });
    SlicesOut options;
    options.folder = m_dir.filePath("stretches").toStdString();
    const auto written = writeSlices(p, id, options, Freely{}, m_job);
    QVERIFY2(written.ok(), written.ok() ? "" : written.error().text().c_str());
    const Source& source = *findSource(p, id);
    for (std::size_t i = 0; i < 4; ++i) {
      const auto slice = decodeFile((*written)[i].path, m_job);
      QVERIFY(slice.ok());
      const Cut& cut = source.cuts[i];
      QCOMPARE(slice->sound->frames().value, (cut.end - cut.start).value);
      for (std::int64_t k = 0; k < slice->sound->frames().value; ++k) {
        const float is = slice->sound->channel(0)[std::size_t(k)],
                    should = std::clamp(source.sound->channel(0)[std::size_t(cut.start.value + k)],
                                        -1.0f, 1.0f);
        if (std::abs(is - should) > 2.0f / 8388608) // 24 bits
          QFAIL(qPrintable(
              QString("slice %1, frame %2: %3, not %4").arg(i).arg(k).arg(is).arg(should)));
      }
    }
  }

  void whatGoesRoundStillDoesAsItSounds() {
    Source s = sourceOf(makeSound(sine(331, 2, 48000)), "quay horn");
    s.corrections.tempo = Bpm(120);
    Project p;
    p.tempo = Bpm(120);
    Id source = 0;
    p = withSource(std::move(p), s, &source);
    Cut cut;
    cut.end = Frames(48000);
    p = withCuts(std::move(p), source, {}, {cut});
    const Id key = slicesOf(p, source).front();
    p = withKeyChanged(p, key, [](Key& k) {
      k.loop = {true, 0.3, 0.7, Milliseconds(20)};
      k.fine = Cents(37); // a round is no whole number of frames then
      k.lowPass = Hertz(3000);
      k.envelope = {Milliseconds(5), Milliseconds(0), Milliseconds(300), 0.5, Milliseconds(90)};
    });
    SlicesOut options;
    options.folder = m_dir.filePath("round").toStdString();
    options.asTheySound = true;
    options.samples = SampleFormat::Float32;
    const auto written = writeSlices(p, source, options, Freely{}, m_job);
    QVERIFY2(written.ok(), written.ok() ? "" : written.error().text().c_str());
    const std::string smpl = chunkOf(bytesOf((*written)[0].path), "smpl");
    QVERIFY(smpl.size() >= 60);
    QCOMPARE(word(smpl, 28), 1u);
    const std::size_t start = word(smpl, 36 + 8), end = word(smpl, 36 + 12) + 1;
    const auto back = decodeFile((*written)[0].path, m_job);
    const auto x = back->sound->channel(0);
    QVERIFY(end + 32 < x.size());
    // Going back to its start is going on, 80 dB under the tone (whose amplitude is a half).
    for (std::size_t i = 0; i < 32; ++i) QVERIFY(std::abs(x[end + i] - x[start + i]) < 0.00005f);
    // Whole rounds, by hand: .4 of a second less the crossfade, 37 ct faster.
    const double round = (0.4 - 0.02) * 48000 / std::exp2(37 / 1200.0);
    const double rounds = double(end - start) / round;
    QVERIFY(std::abs(rounds - std::round(rounds)) < 0.05 / 1200 * std::log(2.0) * rounds);
    // It does not decay in the file: the instrument does that, with what the key says.
    const auto last = x.subspan(end - 4800, 4800);
    QVERIFY(peakOf(last) > 0.9f * peakOf(x.first(9600)));
    const std::string sfz = bytesOf(written->back().path);
    for (const char* line : {"loop_mode=loop_continuous", "ampeg_decay=0.3", "ampeg_sustain=50"})
      QVERIFY2(sfz.find(line) != std::string::npos, sfz.c_str());
    QVERIFY(sfz.find("loop_start=" + std::to_string(start)) != std::string::npos);
    QVERIFY(sfz.find("ampeg_attack") == std::string::npos); // that is in the file
  }

  void flacCarriesThemToo() {
    Id source = 0;
    const Project p = fourSlices(&source);
    SlicesOut options;
    options.folder = m_dir.filePath("flac").toStdString();
    options.format = FileFormat::Flac;
    const auto written = writeSlices(p, source, options, Freely{}, m_job);
    QVERIFY(written.ok());
    QProcess metaflac;
    metaflac.start("metaflac",
                   {"--export-cuesheet-to=-", QString::fromStdString((*written)[4].path.string())});
    QVERIFY(metaflac.waitForFinished());
    const QString sheet = metaflac.readAllStandardOutput();
    QCOMPARE(int(sheet.count("TRACK")), 4);
    for (int i = 0; i < 4; ++i)
      QVERIFY2(sheet.contains(QString("INDEX 01 %1").arg(i * 24000)), qPrintable(sheet));
    TagLib::FLAC::File tags((*written)[1].path.c_str());
    const auto fields = tags.xiphComment()->fieldListMap();
    QCOMPARE(fields["LOOPSTART"].toString().toInt(), 6000);
    QCOMPARE(fields["LOOPLENGTH"].toString().toInt(), 12000);
    // Still the same sound.
    QCOMPARE(decodeFile((*written)[4].path, m_job)->sound->frames().value, 96000);
  }

  void theInstrumentSaysWhatTheKeysSay() {
    Id source = 0;
    const Project p = fourSlices(&source);
    SlicesOut options;
    options.folder = m_dir.filePath("sfz").toStdString();
    const auto written = writeSlices(p, source, options, Freely{}, m_job);
    std::istringstream text(bytesOf(written->back().path));
    std::vector<std::map<std::string, std::string>> regions;
    for (std::string line; std::getline(text, line);) {
      if (line.empty() || line.starts_with("//")) continue;
      if (line == "<region>") {
        regions.emplace_back();
        continue;
      }
      const auto equals = line.find('=');
      QVERIFY2(equals != std::string::npos && !regions.empty(), line.c_str());
      regions.back()[line.substr(0, equals)] = line.substr(equals + 1);
    }
    QCOMPARE(int(regions.size()), 4);
    for (int i = 0; i < 4; ++i) {
      auto& r = regions[std::size_t(i)];
      QCOMPARE(r["key"], std::to_string(36 + i));
      QVERIFY(std::filesystem::exists(options.folder / r["sample"]));
      QCOMPARE(r["off_by"], r["group"]); // they cut each other off
    }
    auto& second = regions[1];
    for (const auto& [opcode, value] :
         std::map<std::string, std::string>{{"volume", "-3"},
                                            {"pan", "50"},
                                            {"transpose", "2"},
                                            {"tune", "30"},
                                            {"ampeg_attack", "0.005"},
                                            {"ampeg_hold", "0.05"},
                                            {"loop_mode", "loop_continuous"},
                                            {"loop_start", "6000"},
                                            {"loop_end", "17999"},
                                            {"loop_crossfade", "0.02"},
                                            {"fil_type", "hpf_2p"},
                                            {"cutoff", "200"},
                                            {"fil2_type", "lpf_2p"},
                                            {"cutoff2", "4000"}})
      QCOMPARE(QString::fromStdString(second[opcode]), QString::fromStdString(value));
    QCOMPARE(regions[0]["loop_mode"], std::string("one_shot"));
  }

  void asTheySoundIsAtTheBeatsTempo() {
    Id source = 0;
    Project p = fourSlices(&source);
    p = withSourceChanged(std::move(p), source,
                          [](Source& s) { s.shape.method = FitMethod::Stretch; });
    SlicesOut options;
    options.folder = m_dir.filePath("sounding").toStdString();
    options.asTheySound = true;
    const auto written = writeSlices(p, source, options, Freely{}, m_job);
    QVERIFY(written.ok());
    QVERIFY((*written)[0].path.filename().string().ends_with("96bpm Am.wav"));
    // A beat at 96 BPM: 60 / 96 s.
    QCOMPARE(decodeFile((*written)[0].path, m_job)->sound->frames().value, 30000);
  }

  void aDiscThatFillsUpLeavesNoHalfFile() {
    Id source = 0;
    const Project p = fourSlices(&source);
    SlicesOut options;
    options.folder = m_dir.filePath("full").toStdString();
    // Writing fails for real, as on a full disc: no file may grow past 40 kB.
    rlimit before{};
    QCOMPARE(getrlimit(RLIMIT_FSIZE, &before), 0);
    const auto handler = std::signal(SIGXFSZ, SIG_IGN);
    const rlimit little{40'000, before.rlim_max};
    QCOMPARE(setrlimit(RLIMIT_FSIZE, &little), 0);
    const auto written = writeSlices(p, source, options, Freely{}, m_job);
    setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, handler);
    QVERIFY(!written.ok());
    // It says what happened, and blames no full disc.
    const QString said = QString::fromStdString(written.error().text());
    QVERIFY2(said.contains("File too large") && !said.contains("Make room"), qPrintable(said));
    QVERIFY(std::filesystem::is_empty(options.folder));
    QVERIFY(writeSlices(p, source, options, Freely{}, m_job).ok()); // and with room it works
  }

  void whatCannotBeWrittenIsSaid() {
    Id source = 0;
    const Project p = fourSlices(&source);
    SlicesOut options;
    options.folder = "/proc/no such place";
    const auto written = writeSlices(p, source, options, Freely{}, m_job);
    QVERIFY(!written.ok());
    QVERIFY(QString::fromStdString(written.error().text()).contains("folder"));
    Project uncut = withSource({}, sourceOf(drumLoop(100, 2), "x"), &source);
    QVERIFY(
        !writeSlices(uncut, source, {m_dir.filePath("no").toStdString()}, Freely{}, m_job).ok());
  }
};

QTEST_GUILESS_MAIN(TestSlicesOut)
#include "tst_slices_out.moc"
