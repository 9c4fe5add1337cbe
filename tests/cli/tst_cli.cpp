// tuvvo-cli as a program: exit codes, JSON keys, and the whole way from a sound to a printed beat.
#include "audio/decode.h"
#include "audio/encode.h"
#include "formats/bundle.h"
#include "listen/onsets.h"
#include "support.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {
struct Ran {
  int code;
  QByteArray out, err;
};
Ran run(const QStringList& arguments) {
  QProcess process;
  process.start(QString::fromLatin1(TUVVO_CLI), arguments);
  process.waitForFinished(120000);
  return {process.exitCode(), process.readAllStandardOutput(), process.readAllStandardError()};
}
nlohmann::json json(const Ran& ran) {
  return nlohmann::json::parse(ran.out.toStdString(), nullptr, false);
}
const QString kBreak = QString::fromLatin1(TUVVO_DATA_DIR) + "/demo/pier nine break.flac";
const QString kLoop = QString::fromLatin1(TUVVO_DATA_DIR) + "/demo/lantern row.flac";
} // namespace

class TestCli : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  QString path(const char* name) { return m_dir.path() + "/" + name; }

private slots:
  void helpAndWrongUse() {
    QCOMPARE(run({"--help"}).code, 0);
    for (const char* command : {"listen", "cut", "fit", "flip", "render", "check"}) {
      const Ran help = run({command, "--help"});
      QCOMPARE(help.code, 0);
      QVERIFY(help.out.startsWith("usage: tuvvo-cli "));
    }
    for (const QStringList& wrong :
         std::initializer_list<QStringList>{{},
                                            {"dance"},
                                            {"listen"},
                                            {"listen", "--loud"},
                                            {"cut", kBreak},
                                            {"cut", kBreak, "--by", "magic", "--out", "x"},
                                            {"fit", "--to-bpm", "fast"},
                                            {"fit", "--to-bpm", "90"},
                                            {"fit", "--bpm", "90", "--to-bpm", "90", "--key", "H"},
                                            {"flip"},
                                            {"render", "x"}})
      QVERIFY2(run(wrong).code == 2, qPrintable(wrong.join(' ')));
  }

  void everythingThatCanBeTurnedIsListedOnce() {
    const Ran ran = run({"parameters", "--json"});
    QCOMPARE(ran.code, 0);
    const auto list = QJsonDocument::fromJson(ran.out).array();
    QVERIFY(list.size() > 60);
    QSet<QString> ids;
    for (const auto& each : list) {
      const auto one = each.toObject();
      QVERIFY(!ids.contains(one["id"].toString()));
      ids << one["id"].toString();
      QVERIFY(one["least"].toDouble() <= one["standard"].toDouble() &&
              one["standard"].toDouble() <= one["most"].toDouble());
    }
    for (const char* id :
         {"key.level", "layer.delay", "treatment.stutter.count", "filter.cutoff", "limiter.ceiling",
          "feel.lag", "hit.chance", "part.duck-back", "row.send-2", "master.width"})
      QVERIFY2(ids.contains(id), id);
    QVERIFY(run({"parameters"}).out.contains("filter.cutoff"));
    QCOMPARE(run({"parameters", "filter"}).code, 2);
    QVERIFY(run({"--version"}).out.startsWith("tuvvo-cli "));
  }

  void listenHasItsKeys() {
    const Ran ran = run({"listen", "--json", kLoop});
    QCOMPARE(ran.code, 0);
    const auto all = json(ran);
    QCOMPARE(all.size(), std::size_t(1));
    for (const char* key :
         {"file", "durationS", "sampleRate", "channels", "tempo", "meter", "beatsS", "downbeatsS",
          "loop", "key", "chords", "onsets", "sections", "loudness", "faults"})
      QVERIFY2(all[0].contains(key), key);
    for (const char* key : {"bpm", "confidence", "alternatives", "steady", "driftMs"})
      QVERIFY(all[0]["tempo"].contains(key));
    for (const char* key : {"atS", "cutS", "hits", "level", "brightnessHz"})
      QVERIFY(all[0]["onsets"][0].contains(key));
    const auto faults = json(run({"listen", "--json", kBreak}))[0]["faults"];
    QCOMPARE(faults.size(), std::size_t(1));
    QCOMPARE(faults[0]["kind"].get<std::string>(), std::string("silence at the front"));
    QVERIFY(faults[0]["text"].get<std::string>().starts_with("It begins with 134 ms"));
  }

  void oneBadFileIsReportedAndTheRestDone() {
    const Ran ran = run({"listen", "--json", "--jobs", "2", "/nowhere.wav", kLoop, kBreak});
    QCOMPARE(ran.code, 1);
    QCOMPARE(json(ran).size(), std::size_t(2));
    QVERIFY(ran.err.contains("/nowhere.wav"));
  }

  void cutWritesSlices() {
    const Ran ran = run({"cut", kLoop, "--by", "beats:1", "--out", path("cuts"), "--json"});
    QCOMPARE(ran.code, 0);
    const auto all = json(ran);
    QCOMPARE(all.size(), std::size_t(16));
    JobContext job;
    std::int64_t frames = 0;
    for (const auto& slice : all)
      frames += decodeFile(slice["file"].get<std::string>(), job)->sound->frames().value;
    QCOMPARE(
        frames,
        decodeFile(kLoop.toStdString(), job)->sound->frames().value); // nothing lost, nothing twice
  }

  void fitRows() {
    const auto rows = json(
        run({"fit", "--bpm", "120", "--key", "Am", "--to-bpm", "60", "--to-key", "C", "--json"}));
    QCOMPARE(rows[0]["method"].get<std::string>(), std::string("repitch"));
    QCOMPARE(rows[0]["semitones"].get<double>(),
             0.0); // half time and the relative: it fits as it is
    for (const char* key : {"method", "semitones", "cents", "resultBpm", "bpmErrorPercent",
                            "stretchPercent", "resultKey", "keyDistance", "heard"})
      QVERIFY(rows[0].contains(key));
  }

  void fitTurnsTheQuestionRoundForPeople() {
    const Ran ran = run({"fit", "--bpm", "91.78", "--key", "Cm", "--to-bpm", "85"});
    QCOMPARE(ran.code, 0);
    QVERIFY2(ran.out.contains("or the beat to 86.63 BPM"),
             qPrintable(ran.out)); // 91.78 · 2^(−1/12)
  }

  void cutNamesSayTempoAndSliceAndAnInstrumentLiesBeside() {
    const Ran ran = run({"cut", kBreak, "--by", "hits", "--out", path("hits"), "--format", "flac"});
    QCOMPARE(ran.code, 0);
    const QStringList files = QDir(path("hits")).entryList({"*.flac"});
    QVERIFY(files.size() > 60);
    QVERIFY2(files[0].startsWith("pier nine break 001 1.1 kick"), qPrintable(files[0]));
    QVERIFY2(files[0].endsWith("bpm.flac"), qPrintable(files[0]));
    QCOMPARE(int(QDir(path("hits")).entryList({"*.sfz"}).size()), 1);
    QCOMPARE(run({"cut", kBreak, "--by", "hits", "--out", path("hits"), "--format", "mp3"}).code,
             2);
  }

  void fromABreakToABeat() {
    const QString project = path("x.tuvvo"), wav = path("x.wav");
    QCOMPARE(run({"flip", kBreak, "--project", project, "--out", wav}).code, 0);
    const Ran check = run({"check", project});
    QCOMPARE(check.code, 0);
    QVERIFY(check.out.contains("Nothing is missing"));
    JobContext job;
    const auto printed = decodeFile(wav.toStdString(), job);
    // The beats of the break last 60 / 95.55 s on average; a whole tempo beside it is taken, and
    // the print is 12 bars of that, to the sample.
    const double beats = openProject(project.toStdString(), job)->project.tempo.value;
    QVERIFY(beats == 95 || beats == 96);
    QCOMPARE(printed->sound->frames().value, std::llround(12 * 4 * 60 * 48000 / beats));
    QVERIFY(peakOf(*printed->sound, Frames(0), printed->sound->frames()) < 1.0f);
    // A second flip writes over no project that nobody agreed to lose.
    const Ran again = run({"flip", kBreak, "--project", project});
    QCOMPARE(again.code, 2);
    QVERIFY(again.err.contains("--force"));
    // Rendering the saved project gives the same sound.
    QCOMPARE(run({"render", project, "--out", path("again.wav"), "--stems", path("stems")}).code,
             0);
    QCOMPARE(decodeFile(path("again.wav").toStdString(), job)->sound->hash(),
             printed->sound->hash());
    QVERIFY(QDir(path("stems")).entryList(QDir::Files).size() > 16);
  }

  void aStrangeLoopComesOutAtTheTempoAskedFor() {
    // Played by a soundfont synthesiser from notes written here, at 107 BPM.
    const QString midi = path("loop.mid"), rendered = path("rendered.wav"), loop = path("loop.wav");
    QByteArray track;
    const auto put = [&](int delta, std::initializer_list<int> bytes) {
      if (delta > 127) track.append(char(128 | (delta >> 7)));
      track.append(char(delta & 127));
      for (int b : bytes) track.append(char(b));
    };
    const int tempo = 60000000 / 107;
    put(0, {0xff, 0x51, 3, tempo >> 16, (tempo >> 8) & 255, tempo & 255});
    put(0, {0xc0, 4});
    for (int beat = 0; beat < 20; ++beat) {
      const int drum = beat % 2 ? 38 : 36, note = 45 + (beat / 4) % 3 * 2;
      put(0, {0x99, drum, 110});
      put(0, {0x99, 42, 90});
      if (beat % 2 == 0) put(0, {0x90, note, 90});
      put(240, {0x99, 42, 70});
      put(200, {0x89, drum, 0});
      if (beat % 2 == 0) put(0, {0x80, note, 0});
      put(40, {0x89, 42, 0});
    }
    put(0, {0xff, 0x2f, 0});
    QByteArray file("MThd\0\0\0\6\0\0\0\1\1\xe0MTrk", 18);
    for (int shift : {24, 16, 8, 0}) file.append(char(track.size() >> shift & 255));
    QFile out(midi);
    QVERIFY(out.open(QIODevice::WriteOnly));
    out.write(file + track);
    out.close();
    QCOMPARE(QProcess::execute("fluidsynth", {"-ni", "-q", "-r", "44100", "-F", rendered,
                                              "/usr/share/sounds/sf2/TimGM6mb.sf2", midi}),
             0);
    JobContext job;
    const auto whole = decodeFile(rendered.toStdString(), job);
    QVERIFY(whole.ok());
    const auto frames = std::size_t(std::llround(16 * 60.0 / 107 * 44100)); // exactly four bars
    const auto from = whole->sound->channel(0).first(frames);
    QVERIFY(encodeFile(*makeSound({from.begin(), from.end()}, 44100), loop.toStdString(),
                       {FileFormat::Wav, SampleFormat::Int24})
                .ok());

    const auto heard = json(run({"listen", "--json", loop}));
    QVERIFY(std::abs(heard[0]["tempo"]["bpm"].get<double>() - 107) < 0.01);
    QCOMPARE(run({"flip", loop, "--bpm", "91", "--project", path("strange.tuvvo"), "--out",
                  path("strange.wav")})
                 .code,
             0);
    const auto flipped = json(run({"listen", "--json", path("strange.wav")}));
    const double bpm = flipped[0]["tempo"]["bpm"].get<double>();
    QVERIFY2(std::abs(bpm - 91) < 0.05, qPrintable(QString::number(bpm)));
    QCOMPARE(decodeFile(path("strange.wav").toStdString(), job)->sound->frames().value,
             std::llround(48 * 60.0 / 91 * 48000));
    QCOMPARE(run({"check", path("strange.tuvvo")}).code, 0);
  }

  void nothingIsWrittenOverWithoutForce() {
    const QString project = path("x.tuvvo"), wav = path("there.wav");
    QFile there(wav);
    QVERIFY(there.open(QIODevice::WriteOnly) && there.write("precious") == 8);
    there.close();
    const Ran refused = run({"render", project, "--out", wav});
    QCOMPARE(refused.code, 2);
    QVERIFY(refused.err.contains("--force") && refused.err.contains("there.wav"));
    QVERIFY(there.open(QIODevice::ReadOnly) && there.readAll() == "precious");
    there.close();
    QCOMPARE(run({"render", project, "--out", wav, "--force"}).code, 0);
    QVERIFY(QFileInfo(wav).size() > 1000);
    QCOMPARE(run({"cut", kLoop, "--by", "equal:2", "--out", path("again")}).code, 0);
    QCOMPARE(run({"cut", kLoop, "--by", "equal:2", "--out", path("again")}).code, 2);
    QCOMPARE(run({"cut", kLoop, "--by", "equal:2", "--out", path("again"), "--force"}).code, 0);
  }

  void noSourceIsEverWrittenOver() {
    const QString own = path("own.flac");
    QVERIFY(QFile::copy(kBreak, own));
    QFile::setPermissions(own, QFile::ReadOwner | QFile::WriteOwner);
    QFile source(own);
    const auto content = [&] {
      if (!source.open(QIODevice::ReadOnly)) return QByteArray();
      const QByteArray all = source.readAll();
      source.close();
      return all;
    };
    const QByteArray before = content();
    for (const char* force : {"", "--force"}) {
      QStringList arguments{"flip", own, "--project", path("own.tuvvo"), "--out", own};
      if (*force) arguments << force;
      QCOMPARE(run(arguments).code, 1);
    }
    QVERIFY(content() == before);
    QVERIFY(!QFileInfo::exists(path("own.tuvvo"))); // nor is a project left behind
    QCOMPARE(run({"flip", own, "--project", path("own.tuvvo")}).code, 0);
    QCOMPARE(run({"render", path("own.tuvvo"), "--out", own, "--force"}).code, 1);
    const QString inside = QDir(path("own.tuvvo/audio")).entryInfoList({"*.flac"})[0].filePath();
    QCOMPARE(run({"render", path("own.tuvvo"), "--out", inside, "--force"}).code, 1);
    QVERIFY(content() == before);
    QVERIFY(run({"check", path("own.tuvvo")}).out.contains("Nothing is missing"));
  }

  void slicesOfALongNameHaveNamesOfTheirOwn() {
    QDir().mkpath(path("long"));
    const QString name = QString(80, QChar(0x00e4)) + "tail"; // 164 bytes, two a letter
    const QString source = path("long/") + name + ".flac";
    QVERIFY(QFile::copy(kLoop, source));
    const qint64 size = QFileInfo(source).size();
    QCOMPARE(run({"cut", source, "--by", "equal:4", "--out", path("long")}).code, 0);
    QCOMPARE(QFileInfo(source).size(), size);
    const QStringList files = QDir(path("long")).entryList({"*.wav"});
    QCOMPARE(files.size(), qsizetype(5)); // four slices and the whole
    for (const QString& file : files) QVERIFY(!file.contains(QChar(0xfffd))); // cut between letters
  }

  void aStemNeverTakesTheMixsName() {
    const QString folder = path("stems");
    const QStringList stems = QDir(folder).entryList(QDir::Files);
    QVERIFY(!stems.isEmpty());
    const Ran ran = run(
        {"render", path("x.tuvvo"), "--out", path("fresh/") + stems[0], "--stems", path("fresh")});
    QVERIFY(ran.code == 1 && ran.err.contains("Two files of one run"));
    QVERIFY(!QFileInfo::exists(path("fresh/") + stems[0]));
  }

  void aFailedFlipLeavesNoProject() {
    QCOMPARE(run({"flip", kBreak, "--project", path("no.tuvvo"), "--out", path("a.xyz")}).code, 1);
    QCOMPARE(run({"flip", kBreak, "--project", path("no.tuvvo"), "--out", "/nowhere/a.wav"}).code,
             1);
    QVERIFY(!QFileInfo::exists(path("no.tuvvo")));
  }

  void namesAreShownWithoutDoingAnything() {
    const QString odd = path("a\x1b[31m\nb.wav");
    QVERIFY(QFile::copy(kLoop, odd));
    for (const QStringList& arguments :
         {QStringList{"listen", odd}, QStringList{"listen", odd + "x"},
          QStringList{"cut", odd, "--by", "equal:1", "--out", path("odd")}}) {
      const Ran ran = run(arguments);
      QVERIFY(!ran.out.contains('\x1b') && !ran.err.contains('\x1b'));
    }
  }

  void librariesSayNothingByThemselves() {
    QFile damaged(path("damaged.mp3"));
    QFile good(path("a.mp3"));
    QCOMPARE(run({"render", path("x.tuvvo"), "--out", path("a.mp3")}).code, 0);
    QVERIFY(good.open(QIODevice::ReadOnly));
    QByteArray bytes = good.readAll();
    for (qsizetype at = 2000; at < bytes.size(); at += 700) bytes[at] = char(~bytes[at]);
    QVERIFY(damaged.open(QIODevice::WriteOnly));
    damaged.write(bytes);
    damaged.close();
    QVERIFY(QFile::remove(path("a.mp3")));
    const Ran ran = run({"listen", path("damaged.mp3")});
    for (const QByteArray& line : ran.err.split('\n'))
      QVERIFY2(line.isEmpty() || line.startsWith("tuvvo-cli: "), line.constData());
  }

  void renderInOtherFormats() {
    const QString project = path("x.tuvvo");
    for (const char* name : {"a.flac", "a.ogg", "a.opus", "a.mp3"})
      QCOMPARE(run({"render", project, "--out", path(name)}).code, 0);
    QCOMPARE(
        run({"render", project, "--out", path("b.wav"), "--rate", "44100", "--bits", "16"}).code,
        0);
    JobContext job;
    QCOMPARE(decodeFile(path("b.wav").toStdString(), job)->sound->rate().value, 44100.0);
    QCOMPARE(run({"render", project, "--out", path("a.xyz")}).code, 1);
    QCOMPARE(run({"render", "/nowhere.tuvvo", "--out", path("c.wav")}).code, 1);
    QCOMPARE(run({"render", project, "--out", "/nowhere/c.wav"}).code, 1);
  }
};

QTEST_GUILESS_MAIN(TestCli)
#include "tst_cli.moc"
