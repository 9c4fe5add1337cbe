// The services on its own: what is open, played, saved and printed, without a window.
#include "audio/decode.h"
#include "audio/encode.h"
#include "choose.h"
#include "cut/slicing.h"
#include "formats/bundle.h"
#include "formats/project_json.h"
#include "patience.h"
#include "session/music_text.h"
#include "session/services.h"
#include "song/timeline.h"
#include "support.h"

#include <QDir>
#include <QSignalSpy>
#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestSession : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  std::unique_ptr<Services> m_services;

  QString path(const QString& name) { return m_dir.path() + "/" + name; }
  const Project& project() { return m_services->document.project(); }
  /// Jobs done and what they handed back taken.
  void settle() {
    for (int i = 0; i < 3; ++i) {
      m_services->wait();
      QCoreApplication::processEvents();
    }
  }
  QString writeLoop(const char* name, double bpm, int beats) {
    const QString file = path(name);
    if (!encodeFile(*drumLoop(bpm, beats), file.toStdString(),
                    {FileFormat::Wav, SampleFormat::Int24})
             .ok())
      qFatal("cannot write a test file");
    return file;
  }
  void setTempo(double bpm, const QString& merge = {}) {
    Project next = project();
    next.tempo = Bpm(bpm);
    m_services->document.edit("Set the tempo", std::move(next), merge);
  }
  static bool anySays(const QSignalSpy& spy, const QString& text) {
    for (const auto& each : spy)
      if (each.first().toString().contains(text)) return true;
    return false;
  }

private slots:
  void initTestCase() {
    for (const char* place : {"XDG_DATA_HOME", "XDG_CONFIG_HOME"})
      qputenv(place, m_dir.path().toUtf8());
  }
  void init() {
    m_services = std::make_unique<Services>();
    m_services->files.startNew();
    settle();
  }
  void cleanup() { m_services.reset(); }

  void aNewBeatHasItsKitAndAFolder() {
    QVERIFY(project().keys.size() >= 16);
    QVERIFY(!project().patterns.empty());
    QVERIFY(folder(*m_services).endsWith(".tuvvo"));
    QVERIFY(!m_services->files.unsaved());
    QVERIFY(!m_services->files.readOnly());
    QVERIFY(m_services->document.selection().key != 0);
    QVERIFY(m_services->document.selection().pattern != 0);
  }

  void severalSoundsComeInOneAfterTheOther() {
    QSignalSpy said(m_services.get(), &Services::message);
    QFile text(path("notes.wav"));
    QVERIFY(text.open(QIODevice::WriteOnly));
    text.write("not a sound at all");
    text.close();
    const auto before = project().sources.size();
    m_services->sources.importFiles({writeLoop("rope.wav", 92, 8), path("notes.wav"),
                                     path("missing.wav"), writeLoop("winch.wav", 118, 16)});
    QVERIFY(m_services->jobs.text().contains("4"));
    settle();
    QVERIFY(m_services->jobs.text().isEmpty());
    QCOMPARE(project().sources.size(), before + 2);
    QVERIFY(anySays(said, "notes.wav"));
    QVERIFY(anySays(said, "missing.wav"));
    const Source* last = findSource(project(), m_services->document.selection().source);
    QVERIFY(last && last->name == "winch");
    QVERIFY(std::abs(gridOf(*last)->tempo.value - 118) < 0.06); // 0.05 %
    // One step each: undone, only the last one goes.
    m_services->document.undo();
    QCOMPARE(project().sources.size(), before + 1);
    const Source* first = findSource(project(), m_services->document.selection().source);
    QVERIFY(first && first->name == "rope"); // the selection never points at what is gone
  }

  void theSameSoundUnderAnotherNameIsKnown() {
    m_services->sources.importFiles({writeLoop("tide.wav", 100, 8)});
    settle();
    const auto before = project().sources.size();
    QFile::copy(path("tide.wav"), path("tide again.wav"));
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->sources.importFiles({path("tide again.wav")});
    settle();
    QCOMPARE(project().sources.size(), before);
    QVERIFY(anySays(said, "in the crate already"));
  }

  void aCancelledImportAddsNothingMore() {
    QStringList many;
    for (int i = 0; i < 12; ++i)
      many << writeLoop(qPrintable(QString("c%1.wav").arg(i)), 80 + i, 16);
    const auto before = project().sources.size();
    m_services->sources.importFiles(many);
    m_services->jobs.cancel();
    settle();
    QVERIFY(project().sources.size() < before + 12);
    QVERIFY(m_services->jobs.text().isEmpty());
    m_services->jobs.cancel(); // with nothing running it does nothing
  }

  void theCrateOpensBesideTheInterfaceAndWatchesItsFolders() {
    const QString folder = path("crated/inside");
    QDir().mkpath(folder);
    {
      Services before;
      before.crate.addFolder(path("crated"));
    }
    m_services->crate.prepare();
    m_services->crate.prepare(); // once is enough
    QVERIFY(!m_services->crate.scanner());
    EVENTUALLY(m_services->crate.scanner() != nullptr); // nobody asked for it
    QCOMPARE(m_services->crate.crate()->folders()->size(), std::size_t(1));
    EVENTUALLY(!m_services->crate.scanner()->progress().working());
    QVERIFY(!m_services->crate.scanner()->walked().empty());
    // A sound that appears two folders down comes by itself.
    EVENTUALLY(m_services->crate.watches());
    QVERIFY(QFile::rename(writeLoop("watched.wav", 100, 8), folder + "/watched.wav"));
    const auto rows = [&] {
      return m_services->crate.crate()
          ->find({}, CrateOrder::Name, beatNowOf(project()))
          ->ids.size();
    };
    EVENTUALLY_IS(rows(), std::size_t(1));
    m_services->crate.removeFolder(path("crated"));
  }

  void editsMergeAndStepsCanBeVisited() {
    const auto start = m_services->document.history().place();
    for (double bpm : {91.0, 92.0, 93.0}) setTempo(bpm, "tempo");
    m_services->document.settle();
    QCOMPARE(m_services->document.history().place(), start + 1);
    setTempo(100, "tempo");
    QCOMPARE(m_services->document.history().place(), start + 2);
    setTempo(100); // no change, no step
    QCOMPARE(m_services->document.history().place(), start + 2);
    m_services->document.goToStep(start + 1);
    QCOMPARE(project().tempo.value, 93.0);
    m_services->document.goToStep(start + 2);
    QCOMPARE(project().tempo.value, 100.0);
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->document.undo();
    QVERIFY(anySays(said, "Set the tempo"));
    while (m_services->document.history().canUndo()) m_services->document.undo();
    m_services->document.undo(); // nothing left: nothing happens
    QCOMPARE(m_services->document.history().place(), std::size_t(0));
    while (m_services->document.history().canRedo()) m_services->document.redo();
    m_services->document.redo();
    QCOMPARE(project().tempo.value, 100.0);
  }

  void choosingAKeyChoosesItsSound() {
    m_services->sources.importFiles({writeLoop("gang.wav", 100, 8)});
    settle();
    const Id source = m_services->document.selection().source;
    CutSettings settings;
    settings.mode = CutMode::Equal;
    settings.parts = 20; // more than a page of the Cuts row
    m_services->document.edit("cut", withCuts(project(), source, settings,
                                              cutSource(*findSource(project(), source), settings)));
    const Source* cut = findSource(project(), source);
    QCOMPARE(int(cut->cuts.size()), 20);
    selectCut(*m_services, source, cut->cuts[12].id);
    const Key* key = findKey(project(), m_services->document.selection().key);
    QVERIFY(key && key->sound.cut == cut->cuts[12].id);
    QCOMPARE(m_services->document.selection().page, key->page);
    setPage(*m_services, 99);
    QCOMPARE(m_services->document.selection().page, cutPages(project()) - 1);
    setPage(*m_services, -3);
    QCOMPARE(m_services->document.selection().page, 0);
    selectKey(*m_services, key->id);
    QCOMPARE(m_services->document.selection().cut, cut->cuts[12].id);
    QCOMPARE(m_services->document.selection().source, source);
    // A section brings its pattern with it.
    Pattern other;
    other.bars = 1;
    Id pattern = 0, section = 0;
    m_services->document.edit("pattern", withPattern(project(), other, &pattern));
    Section s;
    s.pattern = pattern;
    m_services->document.edit("section", withSection(project(), s, 0, &section));
    selectSection(*m_services, section);
    QCOMPARE(m_services->document.selection().pattern, pattern);
  }

  void playStopSeekAndModes() {
    m_services->player.openSound({OutputChoice::Simulated});
    QSignalSpy moved(&m_services->transport, &Transport::changed);
    QVERIFY(!m_services->transport.playing());
    m_services->transport.togglePlay();
    QVERIFY(m_services->transport.playing());
    EVENTUALLY(m_services->transport.positionBeats() > 0.1);
    m_services->transport.seek(2);
    EVENTUALLY(m_services->transport.positionBeats() >= 2);
    m_services->transport.setMetronome(true);
    QVERIFY(m_services->transport.metronome());
    m_services->transport.togglePlay();
    QVERIFY(!m_services->transport.playing());
    QVERIFY(moved.count() >= 3);
    m_services->transport.setPlays(Plays::Song);
    QCOMPARE(m_services->transport.plays(), Plays::Song);
    m_services->transport.setPlays(Plays::Pattern);
  }

  void aSongEndsByItself() {
    auto clicks = clickProject({0, 1, 2}, 240, 1);
    m_services->document.edit("clicks", clicks.project);
    m_services->player.openSound({OutputChoice::Simulated});
    m_services->transport.setPlays(Plays::Song);
    m_services->transport.play(0);
    QVERIFY(m_services->transport.playing());
    EVENTUALLY(!m_services->transport.playing()); // one bar at 240 BPM lasts a second
  }

  void strikingShowsTheKeysLevel() {
    m_services->player.openSound({OutputChoice::Simulated});
    const Id kick = keyAt(project(), Row::Floor, 0, 0)->id;
    m_services->hand.strike(kick, 1);
    EVENTUALLY(m_services->player.levelOf(kick) > 0.01f);
    EVENTUALLY(m_services->player.peaks()[0] > 0.01f);
    m_services->hand.release(kick);
    m_services->hand.strike(99999, 1); // no such key: silence, no harm
    EVENTUALLY(m_services->player.engine().sounding() == 0);
  }

  void theLimiterSaysHowMuchItTurnsDown() {
    Player& player = m_services->player;
    player.openSound({OutputChoice::Simulated});
    const Key* kick = keyAt(m_services->document.project(), Row::Floor, 0, 0);
    QVERIFY(kick);
    player.playKey(kick->id, 0.8);
    EVENTUALLY(player.peaks()[0] > 0.01f);
    QCOMPARE(player.limited().value, 0.0); // the kit leaves room
    Project loud = withKeyChanged(m_services->document.project(), kick->id,
                                  [](Key& key) { key.level = Decibels(12); });
    m_services->document.edit("Too loud", std::move(loud));
    double most = 0;
    player.playKey(kick->id, 1);
    EVENTUALLY((most = std::max(most, player.limited().value)) > 3);
    QVERIFY(most < 20);
    EVENTUALLY_IS(player.limited().value, 0.0); // and rests again
  }

  void auditionPlaysBesideTheBeatAndEnds() {
    m_services->player.openSound({OutputChoice::Simulated});
    m_services->sources.importFiles({writeLoop("hear.wav", 100, 8)});
    settle();
    const Id source = m_services->document.selection().source;
    const ProjectPtr before = m_services->document.projectPtr();
    const auto value = std::make_shared<Source>(*findSource(project(), source));
    m_services->auditions.audition(value);
    QVERIFY(m_services->auditions.heard().hash == value->hash);
    EVENTUALLY(m_services->auditions.heard().sounding);
    QVERIFY(!m_services->auditions.heard().how.empty());
    EVENTUALLY(m_services->player.peaks()[0] > 0.01f);
    m_services->auditions.end();
    QVERIFY(m_services->auditions.heard().hash.empty());
    EVENTUALLY(m_services->player.peaks()[0] < 1e-3f);
    QVERIFY(before == m_services->document.projectPtr()); // hearing changes nothing
  }

  void recordingKeepsTheTake() {
    m_services->player.openSound({OutputChoice::Simulated});
    setTempo(240);
    const Id kick = keyAt(project(), Row::Floor, 0, 0)->id;
    m_services->recorder.toggleRecord();
    QVERIFY(m_services->recorder.recording() && m_services->transport.playing());
    QVERIFY(m_services->transport.positionBeats() < 0.5); // counting in
    EVENTUALLY(m_services->transport.positionBeats() > 0.6);
    QSignalSpy struck(&m_services->player, &Player::struck);
    m_services->hand.strike(kick, 0.7);
    EVENTUALLY_IS(struck.size(), 1);
    m_services->transport.stop(); // ends the take as well
    QVERIFY(!m_services->recorder.recording());
    const Lane* lane = findLane(*findPattern(project(), m_services->document.selection().pattern),
                                findKey(project(), kick)->part);
    QVERIFY(lane && lane->hits.size() == 1);
    QVERIFY(std::abs(lane->hits[0].velocity - 0.7) < 1e-6);
    QVERIFY(inBeats(lane->hits[0].at) > 0.3);
    m_services->document.undo();
    lane = findLane(*findPattern(project(), m_services->document.selection().pattern),
                    findKey(project(), kick)->part);
    QVERIFY(!lane || lane->hits.empty());
  }

  void tapsSetTheTempo() {
    // Which tempo taps make is tested without a clock (tst_listen); here it becomes the beat's.
    for (int i = 0; i < 6; ++i) {
      m_services->transport.tapTempo();
      QTest::qWait(200);
    }
    const auto tapped = m_services->transport.tapped();
    QVERIFY(tapped && tapped->taps >= 2);
    QCOMPARE(project().tempo.value,
             std::clamp(std::round(tapped->bpm.value * 100) / 100, 20.0, 400.0));
  }

  void aFullOrForbiddenPlaceSaysSo() {
    QSignalSpy said(m_services.get(), &Services::message);
    QFile block(path("in the way"));
    QVERIFY(block.open(QIODevice::WriteOnly));
    block.close();
    QVERIFY(!saveAs(*m_services, path("in the way/project"))); // a file where a folder should be
    QVERIFY(said.count() >= 1 && said.last().at(1).toBool());
    PrintService::Request request;
    request.file.path = path("in the way/song.wav").toStdString();
    said.clear();
    m_services->printing.printSong(request);
    settle();
    QVERIFY(said.count() >= 1 && said.last().at(1).toBool());
  }

  void theDemoPrintsWithItsStems() {
    m_services->files.startDemo();
    settle();
    QCOMPARE(QString::fromStdString(project().name), QString("Salt Quay"));
    PrintService::Request request;
    request.file.path = path("quay.wav").toStdString();
    request.file.samples = SampleFormat::Float32;
    request.options.limiter = false;
    request.stems = true;
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->printing.printSong(request);
    settle();
    QVERIFY(anySays(said, "stems"));
    JobContext job;
    const auto whole = decodeFile(request.file.path, job);
    QVERIFY(whole.ok());
    std::vector<double> sum(std::size_t(whole->sound->frames().value), 0.0);
    const QDir stems(path("quay stems"));
    const auto files = stems.entryList({"*.wav"}, QDir::Files);
    QVERIFY(files.size() >= 4);
    for (const QString& file : files) {
      const auto stem = decodeFile(stems.filePath(file).toStdString(), job);
      QVERIFY(stem.ok());
      QCOMPARE(stem->sound->frames().value, whole->sound->frames().value);
      for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += double(stem->sound->channel(0)[i]);
    }
    double most = 0;
    for (std::size_t i = 0; i < sum.size(); ++i)
      most = std::max(most, std::abs(sum[i] - double(whole->sound->channel(0)[i])));
    QVERIFY2(most < 1e-4, qPrintable(QString::number(most)));
  }

  void theSongIsMeasuredAfterEdits() {
    m_services->files.startDemo();
    settle();
    const auto& m = m_services->meter.measure();
    EVENTUALLY_IS(m.barLoudness.size(), std::size_t(timelineOf(project()).bars));
    QVERIFY(m.loudness.integratedLufs < -10 && m.loudness.integratedLufs > -24);
    QCOMPARE(m.spectra.size(), project().parts.size());
  }

  void aDismissedNoteStaysSilentUntilUndone() {
    m_services->files.startDemo();
    EVENTUALLY(!m_services->notes.notes().empty());
    const Note first = m_services->notes.notes()[0];
    const std::string id = first.id;
    m_services->notes.dismissNote(first);
    settle();
    for (const auto& note : m_services->notes.notes()) QVERIFY(note.id != id);
    m_services->document.undo();
    settle();
    QVERIFY(std::any_of(m_services->notes.notes().begin(), m_services->notes.notes().end(),
                        [&](const Note& n) { return n.id == id; }));
    const auto place = m_services->document.history().place();
    m_services->notes.doNote(Note{}); // offers nothing
    QCOMPARE(m_services->document.history().place(), place);
  }

  void longSoundsGetTheirPeaksInTheBackground() {
    Source source = sourceOf(makeSound(Samples(48000 * 40, 0.25f)), "long");
    QVERIFY(!m_services->peaks.peaksOf(source));
    settle();
    const PeaksPtr peaks = m_services->peaks.peaksOf(source);
    QVERIFY(peaks);
    QCOMPARE(peaks->over(*source.sound, Frames(0), Frames(48000)).high, 0.25f);
  }

  /// An unsure chord says what it may be instead where there is room, else that it is unsure.
  void anUnsureChordSaysWhatElseItMayBe() {
    const auto roomFor = [](int letters) {
      return [letters](const QString& text) { return text.size() <= letters; };
    };
    ChordHeard chord{Seconds(0), Seconds(1), "G#", "G#", 0.3, "D#m7"};
    const KeyName key{8, false}; // A flat major
    QCOMPARE(chordText(chord, key, roomFor(20)), QString::fromUtf8("A♭ or E♭m7"));
    QCOMPARE(chordText(chord, key, roomFor(4)), QString::fromUtf8("A♭?"));
    QCOMPARE(chordText(chord, key, roomFor(2)), QString::fromUtf8("A♭"));
    chord.other.clear(); // else there is none
    QCOMPARE(chordText(chord, key, roomFor(20)), QString::fromUtf8("A♭?"));
    chord.confidence = 0.5;
    QCOMPARE(chordText(chord, key, roomFor(20)), QString::fromUtf8("A♭"));
  }
};

QTEST_GUILESS_MAIN(TestSession)
#include "tst_session.moc"
