// What is kept of work: saved, opened, found again after a kill, open in two windows at once.
#include "audio/encode.h"
#include "base/folder_lock.h"
#include "base/random.h"
#include "choose.h"
#include "formats/bundle.h"
#include "formats/project_json.h"
#include "model/edits.h"
#include "patience.h"
#include "session/services.h"
#include "support.h"

#include <QDir>
#include <QSignalSpy>
#include <QtTest>
#include <csignal>
#include <sys/wait.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {
constexpr const char* kHome = "TUVVO_TEST_HOME"; ///< of the process that is to be killed
}

class TestSessionFiles : public QObject {
  Q_OBJECT
  std::unique_ptr<QTemporaryDir> m_dir;
  std::unique_ptr<Services> m_services;

  QString path(const QString& name) { return m_dir->path() + "/" + name; }
  const Project& project() { return m_services->document.project(); }
  /// Jobs done and what they handed back taken.
  static void settle(Services& services) {
    for (int i = 0; i < 4; ++i) {
      services.wait();
      QCoreApplication::processEvents();
    }
  }
  void settle() { settle(*m_services); }
  static void setTempo(Services& services, double bpm) {
    Project next = services.document.project();
    next.tempo = Bpm(bpm);
    services.document.edit("Set the tempo", std::move(next));
  }
  void setTempo(double bpm) { setTempo(*m_services, bpm); }
  static bool anySays(const QSignalSpy& spy, const QString& text) {
    for (const auto& each : spy)
      if (each.first().toString().contains(text)) return true;
    return false;
  }
  QStringList history(const QString& project) {
    return QDir(path(project + ".tuvvo/history")).entryList(QDir::Files, QDir::Name);
  }
  static double tempoIn(const QString& file) {
    const auto bytes = readFile(file.toStdString(), 1 << 24);
    return bytes ? projectFromText(*bytes, "x")->project.tempo.value : 0;
  }

private slots:
  void init() {
    m_dir = std::make_unique<QTemporaryDir>();
    for (const char* place : {"XDG_DATA_HOME", "XDG_CONFIG_HOME"})
      qputenv(place, qEnvironmentVariableIsSet(kHome) ? qgetenv(kHome) : m_dir->path().toUtf8());
    m_services = std::make_unique<Services>();
    m_services->files.startNew();
    settle();
  }
  void cleanup() { m_services.reset(); }

  void savedOpenedAndSavedElsewhere() {
    QVERIFY(saveAs(*m_services, path("night watch")));
    QCOMPARE(folder(*m_services), path("night watch.tuvvo"));
    QCOMPARE(QString::fromStdString(project().name), QString("night watch"));
    QVERIFY(!m_services->files.unsaved());
    setTempo(77);
    QVERIFY(m_services->files.unsaved());
    QVERIFY(save(*m_services));
    const Project kept = project();
    m_services = std::make_unique<Services>();
    m_services->files.open(path("night watch.tuvvo"));
    settle();
    QCOMPARE(projectToText(project(), 1), projectToText(kept, 1));
    QVERIFY(!m_services->files.unsaved() && !m_services->files.readOnly());
  }

  void theDemoTakesItsPlaceWhenItIsRead() {
    const QString before = folder(*m_services);
    m_services->files.startDemo();
    setTempo(63.5); // somebody works on while it is read
    QCOMPARE(folder(*m_services), before);
    settle();
    QCOMPARE(QString::fromStdString(project().name), QString("Salt Quay"));
    QVERIFY(folder(*m_services) != before && project().tempo.value != 63.5);
    QCOMPARE(tempoIn(before + "/autosave.json"), 63.5);
  }

  void newBeatsShareTheirDrums() {
    const auto sounds = [&] {
      std::vector<const Sound*> all;
      for (const auto& source : project().sources) all.push_back(source->sound.get());
      return all;
    };
    m_services->files.startNew(); // they are read by now
    const auto first = sounds();
    QVERIFY(first.size() >= 16);
    m_services->files.startNew();
    QVERIFY(sounds() == first);
  }

  void whatWasNotSavedComesBack() {
    QVERIFY(saveAs(*m_services, path("lost")));
    setTempo(123.25);
    m_services->files.autosaveNow();
    m_services = std::make_unique<Services>();
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->files.open(path("lost.tuvvo"));
    settle();
    QCOMPARE(project().tempo.value, 123.25);
    QVERIFY(m_services->files.unsaved());
    QVERIFY(anySays(said, "as you left it"));
  }

  void aBeatWithoutANameComesBackAtTheNextStart() {
    setTempo(71.5);
    const QString kept = folder(*m_services);
    m_services->files.autosaveNow(); // the window is closed
    m_services = std::make_unique<Services>();
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->files.startWhereYouLeft();
    settle();
    QCOMPARE(project().tempo.value, 71.5);
    QCOMPARE(folder(*m_services), kept);
    QVERIFY(m_services->files.unsaved());
    QVERIFY(anySays(said, "as you left it"));
    // Saved, there is nothing to bring back.
    QVERIFY(save(*m_services));
    m_services = std::make_unique<Services>();
    m_services->files.startWhereYouLeft();
    settle();
    QVERIFY(folder(*m_services) != kept);
    // But it is among those that were open.
    const auto recent = m_services->files.recent().list();
    QVERIFY(!recent.empty() && !recent.front().unsaved);
    QCOMPARE(QString::fromStdString(recent.front().folder.string()), kept);
  }

  void aBeatWithoutANameComesBackAfterAKill() {
    m_services.reset();
    const pid_t child = ::fork();
    if (child == 0) {
      ::setenv(kHome, qPrintable(m_dir->path()), 1);
      ::execl("/proc/self/exe", "tst_session_files", "workUntilKilled", nullptr);
      ::_exit(9);
    }
    const QString home = path("tuvvo/projects/Untitled.tuvvo/autosave.json");
    EVENTUALLY(QFileInfo::exists(home));
    ::kill(child, SIGKILL);
    int status = 0;
    ::waitpid(child, &status, 0);
    QVERIFY(WIFSIGNALED(status));
    QVERIFY(QFileInfo::exists(path("tuvvo/projects/Untitled.tuvvo/lock"))); // stale
    m_services = std::make_unique<Services>();
    m_services->files.startWhereYouLeft();
    settle();
    QCOMPARE(project().tempo.value, 63.0);
    QVERIFY(!m_services->files.readOnly());
  }

  void whatIsAskedForComesWithAnOffer() {
    setTempo(71.5);
    m_services->files.autosaveNow();
    m_services = std::make_unique<Services>();
    QSignalSpy found(&m_services->files, &Files::unsavedFound);
    m_services->files.startNew();
    m_services->files.offerUnsaved();
    QCOMPARE(found.size(), 1);
    QCOMPARE(found[0][0].toString(), QString("Untitled"));
    m_services->files.open(found[0][1].toString());
    settle();
    QCOMPARE(project().tempo.value, 71.5);
  }

  void aBeatThatWasNeverTouchedLeavesNoFolder() {
    const QString kept = folder(*m_services);
    QVERIFY(QFileInfo(kept).isDir());
    m_services->files.startNew();
    QVERIFY(!QFileInfo::exists(kept) || folder(*m_services) == kept);
    const QString second = folder(*m_services);
    m_services.reset();
    QVERIFY(!QFileInfo::exists(second));
  }

  void twoUnnamedBeatsHaveFoldersOfTheirOwn() {
    Services other;
    other.files.startNew();
    QVERIFY(folder(other) != folder(*m_services));
    setTempo(*m_services, 61);
    setTempo(other, 62);
    m_services->files.autosaveNow();
    other.files.autosaveNow();
    JobContext job;
    QCOMPARE(openProject(folder(*m_services).toStdString(), job)->project.tempo.value, 61.0);
    QCOMPARE(openProject(folder(other).toStdString(), job)->project.tempo.value, 62.0);
    settle(other);
  }

  void aSecondWindowLooksAndKeepsItsChangesInACopy() {
    QVERIFY(saveAs(*m_services, path("shared")));
    Services other;
    QSignalSpy said(&other, &Services::message);
    other.files.startNew();
    other.files.open(path("shared.tuvvo"));
    settle(other);
    QVERIFY(other.files.readOnly());
    QVERIFY(anySays(said, "is open in another window"));
    QVERIFY(anySays(said, QString("process %1").arg(::getpid())));
    QVERIFY(!save(other));
    setTempo(other, 55);
    other.files.autosaveNow();
    QVERIFY(!other.files.readOnly());
    QVERIFY(folder(other).endsWith("shared copy.tuvvo"));
    JobContext job;
    QCOMPARE(openProject(folder(other).toStdString(), job)->project.tempo.value, 55.0);
    QVERIFY(openProject(path("shared.tuvvo").toStdString(), job)->project.tempo.value != 55.0);
    // Nothing stands in the first window's way, and the next one may write again.
    setTempo(56);
    QVERIFY(save(*m_services));
    m_services->files.startNew();
    other.files.open(path("shared.tuvvo"));
    settle(other);
    QVERIFY(!other.files.readOnly());
    QCOMPARE(other.document.project().tempo.value, 56.0);
  }

  /// What was struck and is not laid yet belongs to the beat that is left.
  void aTakeThatRunsIsKeptWhereAnotherBeatIsBegun() {
    m_services->player.openSound({OutputChoice::Simulated});
    setTempo(60);
    m_services->transport.setClick({0, Decibels(0), 0});
    const Key* kick = keyAt(project(), Row::Floor, 0, 0);
    const Id part = kick->part, pattern = m_services->document.selection().pattern;
    m_services->document.edit(
        "hold", withKeyChanged(project(), kick->id, [](Key& held) { held.gate = true; }));
    m_services->recorder.toggleRecord();
    EVENTUALLY(m_services->transport.positionBeats() > 0.1);
    QSignalSpy struck(&m_services->player, &Player::struck);
    m_services->hand.press({Row::Floor, 0, 5, 0.7}); // and it is not let go
    EVENTUALLY(struck.size() == 1);
    const QString left = folder(*m_services);
    m_services->files.startNew();
    QVERIFY(folder(*m_services) != left);
    JobContext job;
    const auto kept = openProject(left.toStdString(), job);
    QVERIFY(kept.ok());
    const Lane* lane = findLane(*findPattern(kept->project, pattern), part);
    QVERIFY(lane && lane->hits.size() == 1);
  }

  /// The window goes on while a large sound is written; what is edited meanwhile is not saved.
  void savingGoesOnBesideTheWindow() {
    Samples noise(std::size_t(48'000) * 240);
    Random random(5);
    for (float& v : noise) v = float(std::floor(random.bipolar() * 8e5)) / 8388608.0f;
    Source source;
    source.name = "four minutes";
    source.sound = std::make_shared<Sound>(Channels{std::move(noise)}, Hertz(48'000));
    source.hash = source.sound->hash();
    source.heard = Analysis{};
    m_services->document.edit("add", withSource(project(), std::move(source)));
    setTempo(71);
    QSignalSpy saved(&m_services->files, &Files::changed);
    m_services->files.saveAs(path("large"));
    QCOMPARE(saved.size(), 0); // it has only begun
    setTempo(72);
    EVENTUALLY_IS(saved.size(), 1);
    QVERIFY(m_services->files.unsaved());
    QCOMPARE(folder(*m_services), path("large.tuvvo"));
    JobContext job;
    QCOMPARE(openProject(path("large.tuvvo").toStdString(), job)->project.tempo.value, 71.0);
    // Asked for twice in a row, the later state is the one that is there.
    m_services->files.save();
    setTempo(73);
    m_services->files.save();
    m_services->files.wait();
    QVERIFY(!m_services->files.unsaved());
    QCOMPARE(openProject(path("large.tuvvo").toStdString(), job)->project.tempo.value, 73.0);
    // Saved again while it is on its way to another name, it arrives there.
    m_services->files.saveAs(path("other name"));
    setTempo(74);
    m_services->files.save();
    m_services->files.wait();
    QVERIFY(!m_services->files.unsaved());
    QCOMPARE(folder(*m_services), path("other name.tuvvo"));
    QCOMPARE(openProject(path("other name.tuvvo").toStdString(), job)->project.tempo.value, 74.0);
    QCOMPARE(openProject(path("large.tuvvo").toStdString(), job)->project.tempo.value, 73.0);
    // Two names in a row: both are there, and work goes on under the second.
    m_services->files.saveAs(path("first"));
    m_services->files.saveAs(path("second"));
    m_services->files.wait();
    QCOMPARE(folder(*m_services), path("second.tuvvo"));
    QVERIFY(QFileInfo::exists(path("first.tuvvo/project.json")));
    setTempo(75);
    QVERIFY(save(*m_services));
    QCOMPARE(openProject(path("second.tuvvo").toStdString(), job)->project.tempo.value, 75.0);
  }

  void savingOverAProjectThatIsOpenElsewhereIsRefused() {
    QVERIFY(saveAs(*m_services, path("taken")));
    Services other;
    QSignalSpy said(&other, &Services::message);
    other.files.startNew();
    QVERIFY(!saveAs(other, path("taken"))); // there is one
    QVERIFY(anySays(said, "there is a project already"));
    QVERIFY(!saveAs(other, path("taken"), Replace::Yes)); // and it is open
    QVERIFY(anySays(said, "open in another window"));
    settle(other);
  }

  void savingOverAnotherProjectKeepsItsStates() {
    QVERIFY(saveAs(*m_services, path("old")));
    setTempo(51);
    QVERIFY(save(*m_services));
    setTempo(52);
    m_services->files.autosaveNow(); // not saved
    m_services->files.startNew();
    setTempo(200);
    QVERIFY(saveAs(*m_services, path("old"), Replace::Yes));
    QCOMPARE(tempoIn(path("old.tuvvo/project.json")), 200.0);
    std::multiset<double> kept;
    for (const QString& file : history("old"))
      kept.insert(tempoIn(path("old.tuvvo/history/" + file)));
    QVERIFY(kept.contains(51) && kept.contains(52) && kept.contains(200));
  }

  void anOlderStateThatIsPutBackOpensAndLosesNothing() {
    QVERIFY(saveAs(*m_services, path("advice")));
    setTempo(101);
    QVERIFY(save(*m_services));
    setTempo(102);
    m_services->files.autosaveNow();
    m_services->files.startNew();
    // As our own message says: an older state is copied over the project.
    const QString folder = path("advice.tuvvo/");
    QTest::qWait(20); // by the file's time
    QVERIFY(QFile::remove(folder + "project.json"));
    QVERIFY(QFile::copy(folder + "history/project-1.json", folder + "project.json"));
    QFile touched(folder + "project.json");
    QVERIFY(touched.open(QIODevice::ReadWrite) &&
            touched.setFileTime(QDateTime::currentDateTime().addSecs(2),
                                QFileDevice::FileModificationTime));
    touched.close();
    m_services->files.open(path("advice.tuvvo"));
    settle();
    QVERIFY(project().tempo.value != 101 && project().tempo.value != 102);
    setTempo(103);
    QVERIFY(save(*m_services));
    std::multiset<double> kept;
    for (const QString& file : history("advice")) kept.insert(tempoIn(folder + "history/" + file));
    for (double tempo : {101.0, 102.0, 103.0}) QVERIFY(kept.contains(tempo));
  }

  void aProjectFromTheFutureIsNotOverwritten() {
    QVERIFY(saveAs(*m_services, path("future")));
    m_services->files.startNew();
    const QString file = path("future.tuvvo/project.json");
    QFile json(file);
    QVERIFY(json.open(QIODevice::ReadOnly));
    QByteArray text = json.readAll();
    json.close();
    const int at = int(text.indexOf("\"schema\""));
    QVERIFY(at >= 0);
    text.replace(at, int(text.indexOf(',', at)) - at, "\"schema\": 999");
    QVERIFY(json.open(QIODevice::WriteOnly));
    json.write(text);
    json.close();
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->files.open(path("future.tuvvo"));
    settle();
    QVERIFY(m_services->files.readOnly());
    QVERIFY(!save(*m_services));
    QVERIFY(anySays(said, "newer version"));
    QVERIFY(saveAs(*m_services, path("present")));
    QVERIFY(!m_services->files.readOnly());
    QVERIFY(json.open(QIODevice::ReadOnly));
    QVERIFY(json.readAll() == text);
  }

  void openingNothingKeepsWhatIsOpen() {
    const ProjectPtr before = m_services->document.projectPtr();
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->files.open(path("nowhere.tuvvo"));
    settle();
    QVERIFY(before == m_services->document.projectPtr());
    QVERIFY(said.count() == 1 && said.first().at(1).toBool());
  }

  void openingCanBeCancelled() {
    Project large = project();
    Pattern crowded = *large.patterns[0];
    Lane& lane = laneOf(crowded, large.keys[0].part);
    Hit hit;
    hit.key = large.keys[0].id;
    for (int i = 0; i < 300'000; ++i) {
      hit.at = Beats(i % 1000);
      lane.hits.push_back(hit);
    }
    large.patterns[0] = std::make_shared<Pattern>(crowded);
    QVERIFY(saveProject(large, path("large.tuvvo").toStdString(), {}).ok());
    const ProjectPtr before = m_services->document.projectPtr();
    m_services->files.open(path("large.tuvvo"));
    QVERIFY(m_services->jobs.text().contains("large"));
    m_services->jobs.cancel();
    settle();
    QVERIFY(before == m_services->document.projectPtr());
    QVERIFY(m_services->jobs.text().isEmpty());
  }

  void filesAreWrittenOverOnlyWhereThatWasAgreed() {
    PrintService::Request request;
    request.file.path = path("song.wav").toStdString();
    QVERIFY(m_services->printing.replacedBy(request).isEmpty());
    QFile there(path("song.wav"));
    QVERIFY(there.open(QIODevice::WriteOnly));
    there.write("precious");
    there.close();
    QCOMPARE(m_services->printing.replacedBy(request), QStringList(path("song.wav")));
    QSignalSpy said(m_services.get(), &Services::message);
    m_services->printing.printSong(request);
    settle();
    QVERIFY(anySays(said, "There is a file already"));
    QVERIFY(there.open(QIODevice::ReadOnly) && there.readAll() == "precious");
    there.close();
    m_services->printing.printSong(request, Replace::Yes);
    settle();
    QVERIFY(QFileInfo(path("song.wav")).size() > 1000);
  }

  void aJobThatThrowsIsSaidAndOver() {
    QSignalSpy said(m_services.get(), &Services::message);
    PrintService::Request request;
    request.file.path = path("x.wav").toStdString();
    request.file.rate = Hertz(1e300); // no memory holds that
    m_services->printing.printSong(request);
    settle();
    QVERIFY(m_services->jobs.text().isEmpty());
    QVERIFY(said.count() == 1 && said.first().at(1).toBool());
  }

  /// Run by itself, as another process (see aBeatWithoutANameComesBackAfterAKill).
  void workUntilKilled() {
    if (QCoreApplication::arguments().size() != 2) QSKIP("only as another process");
    setTempo(63);
    m_services->files.autosaveNow();
    QTest::qWait(120'000);
  }
};

QTEST_GUILESS_MAIN(TestSessionFiles)
#include "tst_session_files.moc"
