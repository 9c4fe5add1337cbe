// The session on its own: what is open, played, saved and printed, without a window.
#include "audio/decode.h"
#include "audio/encode.h"
#include "cut/slicing.h"
#include "formats/bundle.h"
#include "formats/project_json.h"
#include "session/session.h"
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
  std::unique_ptr<Session> m_session;

  QString path(const QString& name) { return m_dir.path() + "/" + name; }
  const Project& project() { return m_session->project(); }
  /// Jobs done and what they handed back taken.
  void settle() {
    for (int i = 0; i < 3; ++i) {
      m_session->waitForJobs();
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
    m_session->edit("Set the tempo", std::move(next), merge);
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
    m_session = std::make_unique<Session>();
    m_session->startNew();
    settle();
  }
  void cleanup() { m_session.reset(); }

  void aNewBeatHasItsKitAndAFolder() {
    QVERIFY(project().keys.size() >= 16);
    QVERIFY(!project().patterns.empty());
    QVERIFY(m_session->folder().endsWith(".tuvvo"));
    QVERIFY(!m_session->unsaved());
    QVERIFY(!m_session->readOnly());
    QVERIFY(m_session->selection().key != 0);
    QVERIFY(m_session->selection().pattern != 0);
  }

  void severalSoundsComeInOneAfterTheOther() {
    QSignalSpy said(m_session.get(), &Session::message);
    QFile text(path("notes.wav"));
    QVERIFY(text.open(QIODevice::WriteOnly));
    text.write("not a sound at all");
    text.close();
    const auto before = project().sources.size();
    m_session->importFiles({writeLoop("rope.wav", 92, 8), path("notes.wav"), path("missing.wav"),
                            writeLoop("winch.wav", 118, 16)});
    QVERIFY(m_session->jobText().contains("4"));
    settle();
    QVERIFY(m_session->jobText().isEmpty());
    QCOMPARE(project().sources.size(), before + 2);
    QVERIFY(anySays(said, "notes.wav"));
    QVERIFY(anySays(said, "missing.wav"));
    const Source* last = findSource(project(), m_session->selection().source);
    QVERIFY(last && last->name == "winch");
    QVERIFY(std::abs(gridOf(*last)->tempo.value - 118) < 0.06); // 0.05 %
    // One step each: undone, only the last one goes.
    m_session->undo();
    QCOMPARE(project().sources.size(), before + 1);
    const Source* first = findSource(project(), m_session->selection().source);
    QVERIFY(first && first->name == "rope"); // the selection never points at what is gone
  }

  void theSameSoundUnderAnotherNameIsKnown() {
    m_session->importFiles({writeLoop("tide.wav", 100, 8)});
    settle();
    const auto before = project().sources.size();
    QFile::copy(path("tide.wav"), path("tide again.wav"));
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->importFiles({path("tide again.wav")});
    settle();
    QCOMPARE(project().sources.size(), before);
    QVERIFY(anySays(said, "in the crate already"));
  }

  void aCancelledImportAddsNothingMore() {
    QStringList many;
    for (int i = 0; i < 12; ++i)
      many << writeLoop(qPrintable(QString("c%1.wav").arg(i)), 80 + i, 16);
    const auto before = project().sources.size();
    m_session->importFiles(many);
    m_session->cancelJob();
    settle();
    QVERIFY(project().sources.size() < before + 12);
    QVERIFY(m_session->jobText().isEmpty());
    m_session->cancelJob(); // with nothing running it does nothing
  }

  void theCrateOpensBesideTheInterfaceAndWatchesItsFolders() {
    const QString folder = path("crated/inside");
    QDir().mkpath(folder);
    {
      Session before;
      before.addFolder(path("crated"));
    }
    m_session->prepareCrate();
    m_session->prepareCrate(); // once is enough
    QVERIFY(!m_session->scanner());
    QTRY_VERIFY(m_session->scanner() != nullptr); // nobody asked for it
    QCOMPARE(m_session->crate()->folders()->size(), std::size_t(1));
    QTRY_VERIFY(!m_session->scanner()->progress().working());
    QVERIFY(!m_session->scanner()->walked().empty());
    // A sound that appears two folders down comes by itself.
    QTest::qWait(400); // until the watch is set
    QVERIFY(QFile::rename(writeLoop("watched.wav", 100, 8), folder + "/watched.wav"));
    const auto rows = [&] {
      return m_session->crate()->find({}, CrateOrder::Name, m_session->beatNow())->ids.size();
    };
    QTRY_COMPARE_WITH_TIMEOUT(rows(), std::size_t(1), 15000);
    m_session->removeFolder(path("crated"));
  }

  void editsMergeAndStepsCanBeVisited() {
    const auto start = m_session->history().place();
    for (double bpm : {91.0, 92.0, 93.0}) setTempo(bpm, "tempo");
    m_session->settle();
    QCOMPARE(m_session->history().place(), start + 1);
    setTempo(100, "tempo");
    QCOMPARE(m_session->history().place(), start + 2);
    setTempo(100); // no change, no step
    QCOMPARE(m_session->history().place(), start + 2);
    m_session->goToStep(start + 1);
    QCOMPARE(project().tempo.value, 93.0);
    m_session->goToStep(start + 2);
    QCOMPARE(project().tempo.value, 100.0);
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->undo();
    QVERIFY(anySays(said, "Set the tempo"));
    while (m_session->history().canUndo()) m_session->undo();
    m_session->undo(); // nothing left: nothing happens
    QCOMPARE(m_session->history().place(), std::size_t(0));
    while (m_session->history().canRedo()) m_session->redo();
    m_session->redo();
    QCOMPARE(project().tempo.value, 100.0);
  }

  void choosingAKeyChoosesItsSound() {
    m_session->importFiles({writeLoop("gang.wav", 100, 8)});
    settle();
    const Id source = m_session->selection().source;
    CutSettings settings;
    settings.way = CutWay::Equal;
    settings.parts = 20; // more than a page of the Cuts row
    m_session->edit("cut", withCuts(project(), source, settings,
                                    cutSource(*findSource(project(), source), settings)));
    const Source* cut = findSource(project(), source);
    QCOMPARE(int(cut->cuts.size()), 20);
    m_session->selectCut(source, cut->cuts[12].id);
    const Key* key = findKey(project(), m_session->selection().key);
    QVERIFY(key && key->sound.cut == cut->cuts[12].id);
    QCOMPARE(m_session->selection().page, key->page);
    m_session->setPage(99);
    QCOMPARE(m_session->selection().page, cutPages(project()) - 1);
    m_session->setPage(-3);
    QCOMPARE(m_session->selection().page, 0);
    m_session->selectKey(key->id);
    QCOMPARE(m_session->selection().cut, cut->cuts[12].id);
    QCOMPARE(m_session->selection().source, source);
    // A section brings its pattern with it.
    Pattern other;
    other.bars = 1;
    Id pattern = 0, section = 0;
    m_session->edit("pattern", withPattern(project(), other, &pattern));
    Section s;
    s.pattern = pattern;
    m_session->edit("section", withSection(project(), s, 0, &section));
    m_session->selectSection(section);
    QCOMPARE(m_session->selection().pattern, pattern);
  }

  void playStopSeekAndModes() {
    m_session->openSound({OutputChoice::Simulated});
    QSignalSpy moved(m_session.get(), &Session::transportChanged);
    QVERIFY(!m_session->playing());
    m_session->togglePlay();
    QVERIFY(m_session->playing());
    QTRY_VERIFY(m_session->positionBeats() > 0.1);
    m_session->seek(2);
    QTRY_VERIFY(m_session->positionBeats() >= 2);
    m_session->setMetronome(true);
    QVERIFY(m_session->metronome());
    m_session->togglePlay();
    QVERIFY(!m_session->playing());
    QVERIFY(moved.count() >= 3);
    m_session->setPlays(Session::Plays::Song);
    QCOMPARE(m_session->plays(), Session::Plays::Song);
    m_session->setPlays(Session::Plays::Pattern);
  }

  void aSongEndsByItself() {
    auto clicks = clickProject({0, 1, 2}, 240, 1);
    m_session->edit("clicks", clicks.project);
    m_session->openSound({OutputChoice::Simulated});
    m_session->setPlays(Session::Plays::Song);
    m_session->play(0);
    QVERIFY(m_session->playing());
    QTRY_VERIFY_WITH_TIMEOUT(!m_session->playing(), 5000); // one bar at 240 BPM lasts a second
  }

  void strikingShowsTheKeysLevel() {
    m_session->openSound({OutputChoice::Simulated});
    const Id kick = keyAt(project(), Row::Floor, 0, 0)->id;
    m_session->strike(kick, 1);
    QTRY_VERIFY(m_session->levelOf(kick) > 0.01f);
    QTRY_VERIFY(m_session->peaks()[0] > 0.01f);
    m_session->release(kick);
    m_session->strike(99999, 1); // no such key: silence, no harm
    QTRY_VERIFY_WITH_TIMEOUT(m_session->engine().sounding() == 0, 5000);
  }

  void auditionPlaysBesideTheBeatAndEnds() {
    m_session->openSound({OutputChoice::Simulated});
    m_session->importFiles({writeLoop("hear.wav", 100, 8)});
    settle();
    const Id source = m_session->selection().source;
    const ProjectPtr before = m_session->projectPtr();
    const auto value = std::make_shared<Source>(*findSource(project(), source));
    m_session->audition(value);
    QVERIFY(m_session->auditioned().hash == value->hash);
    QTRY_VERIFY(m_session->auditioned().sounding);
    QVERIFY(!m_session->auditioned().how.empty());
    QTRY_VERIFY(m_session->peaks()[0] > 0.01f);
    m_session->endAudition();
    QVERIFY(m_session->auditioned().hash.empty());
    QTRY_VERIFY(m_session->peaks()[0] < 1e-3f);
    QVERIFY(before == m_session->projectPtr()); // hearing changes nothing
  }

  void recordingKeepsTheTake() {
    m_session->openSound({OutputChoice::Simulated});
    setTempo(240);
    const Id kick = keyAt(project(), Row::Floor, 0, 0)->id;
    m_session->toggleRecord();
    QVERIFY(m_session->recording() && m_session->playing());
    QVERIFY(m_session->positionBeats() < 0.5); // counting in
    QTRY_VERIFY_WITH_TIMEOUT(m_session->positionBeats() > 0.6, 5000);
    m_session->strike(kick, 0.7);
    QTest::qWait(120);
    m_session->stop(); // ends the take as well
    QVERIFY(!m_session->recording());
    const Lane* lane = findLane(*findPattern(project(), m_session->selection().pattern),
                                findKey(project(), kick)->part);
    QVERIFY(lane && lane->hits.size() == 1);
    QVERIFY(std::abs(lane->hits[0].velocity - 0.7) < 1e-6);
    QVERIFY(inBeats(lane->hits[0].at) > 0.3);
    m_session->undo();
    lane = findLane(*findPattern(project(), m_session->selection().pattern),
                    findKey(project(), kick)->part);
    QVERIFY(!lane || lane->hits.empty());
  }

  void tapsSetTheTempo() {
    QElapsedTimer clock;
    clock.start();
    std::vector<double> taps;
    for (int i = 0; i < 6; ++i) {
      taps.push_back(double(clock.nsecsElapsed()) * 1e-9);
      m_session->tapTempo();
      QTest::qWait(300); // 200 BPM, where the machine has time
    }
    QVERIFY(m_session->tapped());
    const double tapped = 60 * 5 / (taps.back() - taps.front());
    QVERIFY2(std::abs(project().tempo.value / tapped - 1) < 0.05,
             qPrintable(QString("%1 %2").arg(project().tempo.value).arg(tapped)));
  }

  void aFullOrForbiddenPlaceSaysSo() {
    QSignalSpy said(m_session.get(), &Session::message);
    QFile block(path("in the way"));
    QVERIFY(block.open(QIODevice::WriteOnly));
    block.close();
    QVERIFY(!m_session->saveAs(path("in the way/project"))); // a file where a folder should be
    QVERIFY(said.count() >= 1 && said.last().at(1).toBool());
    Session::PrintRequest request;
    request.file.path = path("in the way/song.wav").toStdString();
    said.clear();
    m_session->printSong(request);
    settle();
    QVERIFY(said.count() >= 1 && said.last().at(1).toBool());
  }

  void theDemoPrintsWithItsStems() {
    m_session->startDemo();
    settle();
    QCOMPARE(QString::fromStdString(project().name), QString("Salt Quay"));
    Session::PrintRequest request;
    request.file.path = path("quay.wav").toStdString();
    request.file.samples = SampleFormat::Float32;
    request.options.limiter = false;
    request.stems = true;
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->printSong(request);
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
    m_session->startDemo();
    QSignalSpy measured(m_session.get(), &Session::measured);
    QVERIFY(measured.wait(30000));
    const auto& m = m_session->measure();
    QCOMPARE(m.barLoudness.size(), std::size_t(timelineOf(project()).bars));
    QVERIFY(m.loudness.integratedLufs < -10 && m.loudness.integratedLufs > -24);
    QCOMPARE(m.spectra.size(), project().parts.size());
  }

  void aHushedNoteStaysSilentUntilUndone() {
    m_session->importFiles({writeLoop("quiet.wav", 100, 8)});
    settle();
    QVERIFY(!m_session->notes().empty());
    const std::string id = m_session->notes()[0].id;
    m_session->hushNote(0);
    settle();
    for (const auto& note : m_session->notes()) QVERIFY(note.id != id);
    m_session->undo();
    settle();
    QVERIFY(std::any_of(m_session->notes().begin(), m_session->notes().end(),
                        [&](const Note& n) { return n.id == id; }));
    m_session->doNote(9999); // out of range: nothing
    m_session->hushNote(9999);
  }

  void longSoundsGetTheirPeaksInTheBackground() {
    Source source = sourceOf(makeSound(Samples(48000 * 40, 0.25f)), "long");
    QVERIFY(!m_session->peaksOf(source));
    settle();
    const PeaksPtr peaks = m_session->peaksOf(source);
    QVERIFY(peaks);
    QCOMPARE(peaks->over(*source.sound, Frames(0), Frames(48000)).high, 0.25f);
  }
};

QTEST_GUILESS_MAIN(TestSession)
#include "tst_session.moc"
