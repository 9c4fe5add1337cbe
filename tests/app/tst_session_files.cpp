// What is kept of work: saved, opened, found again after a kill, open in two windows at once.
#include "audio/encode.h"
#include "base/folder_lock.h"
#include "formats/bundle.h"
#include "formats/project_json.h"
#include "session/session.h"
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
  std::unique_ptr<Session> m_session;

  QString path(const QString& name) { return m_dir->path() + "/" + name; }
  const Project& project() { return m_session->project(); }
  /// Jobs done and what they handed back taken.
  static void settle(Session& session) {
    for (int i = 0; i < 4; ++i) {
      session.waitForJobs();
      QCoreApplication::processEvents();
    }
  }
  void settle() { settle(*m_session); }
  static void setTempo(Session& session, double bpm) {
    Project next = session.project();
    next.tempo = Bpm(bpm);
    session.edit("Set the tempo", std::move(next));
  }
  void setTempo(double bpm) { setTempo(*m_session, bpm); }
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
    m_session = std::make_unique<Session>();
    m_session->startNew();
    settle();
  }
  void cleanup() { m_session.reset(); }

  void savedOpenedAndSavedElsewhere() {
    QVERIFY(m_session->saveAs(path("night watch")));
    QCOMPARE(m_session->folder(), path("night watch.tuvvo"));
    QCOMPARE(QString::fromStdString(project().name), QString("night watch"));
    QVERIFY(!m_session->unsaved());
    setTempo(77);
    QVERIFY(m_session->unsaved());
    QVERIFY(m_session->save());
    const Project kept = project();
    m_session = std::make_unique<Session>();
    m_session->open(path("night watch.tuvvo"));
    settle();
    QCOMPARE(projectToText(project(), 1), projectToText(kept, 1));
    QVERIFY(!m_session->unsaved() && !m_session->readOnly());
  }

  void whatWasNotSavedComesBack() {
    QVERIFY(m_session->saveAs(path("lost")));
    setTempo(123.25);
    m_session->keepForNextStart();
    m_session = std::make_unique<Session>();
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->open(path("lost.tuvvo"));
    settle();
    QCOMPARE(project().tempo.value, 123.25);
    QVERIFY(m_session->unsaved());
    QVERIFY(anySays(said, "as you left it"));
  }

  void aBeatWithoutANameComesBackAtTheNextStart() {
    setTempo(71.5);
    const QString folder = m_session->folder();
    m_session->keepForNextStart(); // the window is closed
    m_session = std::make_unique<Session>();
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->startWhereYouLeft();
    settle();
    QCOMPARE(project().tempo.value, 71.5);
    QCOMPARE(m_session->folder(), folder);
    QVERIFY(m_session->unsaved());
    QVERIFY(anySays(said, "as you left it"));
    // Saved, there is nothing to bring back.
    QVERIFY(m_session->save());
    m_session = std::make_unique<Session>();
    m_session->startWhereYouLeft();
    settle();
    QVERIFY(m_session->folder() != folder);
    // But it is among those that were open.
    const auto recent = m_session->recent().list();
    QVERIFY(!recent.empty() && !recent.front().unsaved);
    QCOMPARE(QString::fromStdString(recent.front().folder.string()), folder);
  }

  void aBeatWithoutANameComesBackAfterAKill() {
    m_session.reset();
    const pid_t child = ::fork();
    if (child == 0) {
      ::setenv(kHome, qPrintable(m_dir->path()), 1);
      ::execl("/proc/self/exe", "tst_session_files", "workUntilKilled", nullptr);
      ::_exit(9);
    }
    const QString home = path("tuvvo/projects/Untitled.tuvvo/autosave.json");
    QTRY_VERIFY_WITH_TIMEOUT(QFileInfo::exists(home), 60000);
    ::kill(child, SIGKILL);
    int status = 0;
    ::waitpid(child, &status, 0);
    QVERIFY(WIFSIGNALED(status));
    QVERIFY(QFileInfo::exists(path("tuvvo/projects/Untitled.tuvvo/lock"))); // stale
    m_session = std::make_unique<Session>();
    m_session->startWhereYouLeft();
    settle();
    QCOMPARE(project().tempo.value, 63.0);
    QVERIFY(!m_session->readOnly());
  }

  void whatIsAskedForComesWithAnOffer() {
    setTempo(71.5);
    m_session->keepForNextStart();
    m_session = std::make_unique<Session>();
    QSignalSpy found(m_session.get(), &Session::unsavedFound);
    m_session->startNew();
    m_session->offerUnsaved();
    QCOMPARE(found.size(), 1);
    QCOMPARE(found[0][0].toString(), QString("Untitled"));
    m_session->open(found[0][1].toString());
    settle();
    QCOMPARE(project().tempo.value, 71.5);
  }

  void aBeatThatWasNeverTouchedLeavesNoFolder() {
    const QString folder = m_session->folder();
    QVERIFY(QFileInfo(folder).isDir());
    m_session->startNew();
    QVERIFY(!QFileInfo::exists(folder) || m_session->folder() == folder);
    const QString second = m_session->folder();
    m_session.reset();
    QVERIFY(!QFileInfo::exists(second));
  }

  void twoUnnamedBeatsHaveFoldersOfTheirOwn() {
    Session other;
    other.startNew();
    QVERIFY(other.folder() != m_session->folder());
    setTempo(*m_session, 61);
    setTempo(other, 62);
    m_session->keepForNextStart();
    other.keepForNextStart();
    JobContext job;
    QCOMPARE(openProject(m_session->folder().toStdString(), job)->project.tempo.value, 61.0);
    QCOMPARE(openProject(other.folder().toStdString(), job)->project.tempo.value, 62.0);
    settle(other);
  }

  void aSecondWindowLooksAndKeepsItsChangesInACopy() {
    QVERIFY(m_session->saveAs(path("shared")));
    Session other;
    QSignalSpy said(&other, &Session::message);
    other.startNew();
    other.open(path("shared.tuvvo"));
    settle(other);
    QVERIFY(other.readOnly());
    QVERIFY(anySays(said, "is open in another window"));
    QVERIFY(anySays(said, QString("process %1").arg(::getpid())));
    QVERIFY(!other.save());
    setTempo(other, 55);
    other.keepForNextStart();
    QVERIFY(!other.readOnly());
    QVERIFY(other.folder().endsWith("shared copy.tuvvo"));
    JobContext job;
    QCOMPARE(openProject(other.folder().toStdString(), job)->project.tempo.value, 55.0);
    QVERIFY(openProject(path("shared.tuvvo").toStdString(), job)->project.tempo.value != 55.0);
    // Nothing stands in the first window's way, and the next one may write again.
    setTempo(56);
    QVERIFY(m_session->save());
    m_session->startNew();
    other.open(path("shared.tuvvo"));
    settle(other);
    QVERIFY(!other.readOnly());
    QCOMPARE(other.project().tempo.value, 56.0);
  }

  void savingOverAProjectThatIsOpenElsewhereIsRefused() {
    QVERIFY(m_session->saveAs(path("taken")));
    Session other;
    QSignalSpy said(&other, &Session::message);
    other.startNew();
    QVERIFY(!other.saveAs(path("taken"))); // there is one
    QVERIFY(anySays(said, "there is a project already"));
    QVERIFY(!other.saveAs(path("taken"), Replace::Yes)); // and it is open
    QVERIFY(anySays(said, "open in another window"));
    settle(other);
  }

  void savingOverAnotherProjectKeepsItsStates() {
    QVERIFY(m_session->saveAs(path("old")));
    setTempo(51);
    QVERIFY(m_session->save());
    setTempo(52);
    m_session->keepForNextStart(); // not saved
    m_session->startNew();
    setTempo(200);
    QVERIFY(m_session->saveAs(path("old"), Replace::Yes));
    QCOMPARE(tempoIn(path("old.tuvvo/project.json")), 200.0);
    std::multiset<double> kept;
    for (const QString& file : history("old"))
      kept.insert(tempoIn(path("old.tuvvo/history/" + file)));
    QVERIFY(kept.contains(51) && kept.contains(52) && kept.contains(200));
  }

  void anOlderStateThatIsPutBackOpensAndLosesNothing() {
    QVERIFY(m_session->saveAs(path("advice")));
    setTempo(101);
    QVERIFY(m_session->save());
    setTempo(102);
    m_session->keepForNextStart();
    m_session->startNew();
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
    m_session->open(path("advice.tuvvo"));
    settle();
    QVERIFY(project().tempo.value != 101 && project().tempo.value != 102);
    setTempo(103);
    QVERIFY(m_session->save());
    std::multiset<double> kept;
    for (const QString& file : history("advice")) kept.insert(tempoIn(folder + "history/" + file));
    for (double tempo : {101.0, 102.0, 103.0}) QVERIFY(kept.contains(tempo));
  }

  void aProjectFromTheFutureIsNotOverwritten() {
    QVERIFY(m_session->saveAs(path("future")));
    m_session->startNew();
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
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->open(path("future.tuvvo"));
    settle();
    QVERIFY(m_session->readOnly());
    QVERIFY(!m_session->save());
    QVERIFY(anySays(said, "newer version"));
    QVERIFY(m_session->saveAs(path("present")));
    QVERIFY(!m_session->readOnly());
    QVERIFY(json.open(QIODevice::ReadOnly));
    QVERIFY(json.readAll() == text);
  }

  void openingNothingKeepsWhatIsOpen() {
    const ProjectPtr before = m_session->projectPtr();
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->open(path("nowhere.tuvvo"));
    settle();
    QVERIFY(before == m_session->projectPtr());
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
    const ProjectPtr before = m_session->projectPtr();
    m_session->open(path("large.tuvvo"));
    QVERIFY(m_session->jobText().contains("large"));
    m_session->cancelJob();
    settle();
    QVERIFY(before == m_session->projectPtr());
    QVERIFY(m_session->jobText().isEmpty());
  }

  void filesAreWrittenOverOnlyWhereThatWasAgreed() {
    Session::PrintRequest request;
    request.file.path = path("song.wav").toStdString();
    QVERIFY(m_session->replacedBy(request).isEmpty());
    QFile there(path("song.wav"));
    QVERIFY(there.open(QIODevice::WriteOnly));
    there.write("precious");
    there.close();
    QCOMPARE(m_session->replacedBy(request), QStringList(path("song.wav")));
    QSignalSpy said(m_session.get(), &Session::message);
    m_session->printSong(request);
    settle();
    QVERIFY(anySays(said, "There is a file already"));
    QVERIFY(there.open(QIODevice::ReadOnly) && there.readAll() == "precious");
    there.close();
    m_session->printSong(request, Replace::Yes);
    settle();
    QVERIFY(QFileInfo(path("song.wav")).size() > 1000);
  }

  void aJobThatThrowsIsSaidAndOver() {
    QSignalSpy said(m_session.get(), &Session::message);
    Session::PrintRequest request;
    request.file.path = path("x.wav").toStdString();
    request.file.rate = Hertz(1e300); // no memory holds that
    m_session->printSong(request);
    settle();
    QVERIFY(m_session->jobText().isEmpty());
    QVERIFY(said.count() == 1 && said.first().at(1).toBool());
  }

  /// Run by itself, as another process (see aBeatWithoutANameComesBackAfterAKill).
  void workUntilKilled() {
    if (QCoreApplication::arguments().size() != 2) QSKIP("only as another process");
    setTempo(63);
    m_session->keepForNextStart();
    QTest::qWait(120'000);
  }
};

QTEST_GUILESS_MAIN(TestSessionFiles)
#include "tst_session_files.moc"
