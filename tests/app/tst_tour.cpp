// The first start and the tour, done as a person does them; and what Space plays.
#include "app/demo_window.h"
#include "patience.h"
#include "shell/tour.h"
#include "shell/tour_bar.h"
#include "widgets/empty_place.h"

#include <QSettings>

using namespace tuvvo;
using namespace tuvvo::test;

class TestTour : public QObject, DemoWindow {
  Q_OBJECT

  TourBar& bar() { return *m_window->findChild<TourBar*>(); }
  QAbstractButton* next() { return bar().findChild<QAbstractButton*>("tourNext"); }
  QString asked() {
    QStringList texts;
    for (auto* label : bar().findChildren<Label*>()) texts << label->text();
    return texts.join(' ');
  }
  void openNew() {
    m_services = std::make_unique<Services>();
    m_window = std::make_unique<MainWindow>(*m_services);
    m_services->files.startNew();
    m_services->player.openSound({OutputChoice::Simulated});
    m_window->show();
    m_window->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
    settle();
  }

private slots:
  void initTestCase() { prepare(); }
  void init() { QSettings().clear(); }
  void cleanup() { closeDemo(); }

  void aFirstStartOffersThreeWays() {
    openNew();
    QCOMPARE(m_window->stage(), Stage::Crate);
    auto* empty = m_window->view(Stage::Crate).findChild<EmptyPlace*>();
    QVERIFY(empty && empty->isVisible());
    QStringList ways;
    for (auto* way : empty->findChildren<QAbstractButton*>())
      if (way->isVisible()) ways << way->text();
    QCOMPARE(ways, QStringList({"Choose sounds of yours…", "Open the demo", "Take the tour"}));
    QVERIFY(!find<SourceList>(Stage::Crate)->isVisible());
    press(button(*empty, "Open the demo"));
    EVENTUALLY(project().sections.size() > 2);
    QVERIFY(!empty->isVisible());
    QVERIFY(find<SourceList>(Stage::Crate)->isVisible());
    m_services->document.edit("Remove all", Project{});
    QVERIFY(empty->isVisible()); // and back, where there is nothing any more
  }

  void theTourIsDoneByDoing() {
    openNew();
    QVERIFY(!bar().isVisible());
    press(button(m_window->view(Stage::Crate), "Take the tour"));
    EVENTUALLY(project().sections.size() > 2);
    settle();
    QVERIFY(bar().isVisible());
    QVERIFY(asked().startsWith("1 of 5"));
    QCOMPARE(next()->text(), QString("Skip this step"));
    press(button(m_window->view(Stage::Crate), "Play in the beat"));
    EVENTUALLY_IS(next()->text(), QString("Go on"));
    press(next());
    QCOMPARE(m_window->stage(), Stage::Cut);
    QTest::keyClick(m_window.get(), Qt::Key_A); // another row: not what was asked for
    QTest::qWait(200);
    QCOMPARE(next()->text(), QString("Skip this step"));
    m_services->hand.strike(m_services->hand.keyUnder(Row::Cuts, 0)->id, 0.8);
    EVENTUALLY_IS(next()->text(), QString("Go on"));
    press(next());
    QCOMPARE(m_window->stage(), Stage::Keys);
    m_services->transport.play();
    const Id snare = m_services->hand.keyUnder(Row::Body, 0)->id;
    for (int i = 0; i < 3; ++i) {
      m_services->hand.strike(snare, 0.7);
      QTest::qWait(120);
    }
    m_services->recorder.catchThat();
    EVENTUALLY_IS(next()->text(), QString("Go on"));
    m_services->transport.stop();
    press(next());
    QCOMPARE(m_window->stage(), Stage::Beat);
    QCOMPARE(next()->text(), QString("Skip this step"));
    QTest::keyClick(find<RibbonsView>(Stage::Beat), Qt::Key_Return);
    EVENTUALLY_IS(next()->text(), QString("Go on"));
    press(next());
    QCOMPARE(m_window->stage(), Stage::Song);
    QTest::keyClick(m_window.get(), Qt::Key_Space);
    EVENTUALLY_IS(next()->text(), QString("Finish"));
    QCOMPARE(m_services->transport.plays(), Plays::Song);
    press(next());
    QVERIFY(!bar().isVisible());
    m_services->transport.stop();
  }

  void stepsCanBeSkippedAndTheTourComesBackFromHelp() {
    openNew();
    command(*m_window, "Take the tour");
    EVENTUALLY(project().sections.size() > 2);
    for (const Stage stage : {Stage::Crate, Stage::Cut, Stage::Keys, Stage::Beat, Stage::Song}) {
      QVERIFY(bar().isVisible());
      QCOMPARE(m_window->stage(), stage);
      press(next());
    }
    QVERIFY(!bar().isVisible());
    command(*m_window, "Take the tour");
    QVERIFY(bar().isVisible());
    press(button(bar(), "End the tour"));
    QVERIFY(!bar().isVisible());
    settle();
    m_services->files.startNew();
    settle();
    m_window->showStage(Stage::Crate);
    auto* offered = button(m_window->view(Stage::Crate), "Take the tour");
    QVERIFY(!offered->isVisible()); // whoever took it finds the folders in its place
    QVERIFY(button(m_window->view(Stage::Crate), "Look through your folders")->isVisible());
  }

  void spacePlaysWhatTheStageShows() {
    QVERIFY(openDemo());
    Transport& transport = m_services->transport;
    const auto space = [&] { QTest::keyClick(m_window.get(), Qt::Key_Space); };
    QCOMPARE(transport.plays(), Plays::Pattern);
    m_window->showStage(Stage::Song);
    QCOMPARE(transport.plays(), Plays::Song);
    auto& song = *m_window->findChild<QWidget*>("song");
    const QImage still = song.grab().toImage();
    space();
    EVENTUALLY(transport.playing() && transport.positionBeats() > 1);
    QVERIFY(song.grab().toImage() != still); // the playhead has moved
    m_window->showStage(Stage::Beat);
    QVERIFY(transport.playing() && transport.plays() == Plays::Song); // nothing stops the music
    space();
    QCOMPARE(transport.plays(), Plays::Pattern);
    transport.setPlays(Plays::Song); // asked for: it stays until another stage is shown
    space();
    EVENTUALLY(transport.playing());
    QCOMPARE(transport.plays(), Plays::Song);
    space();
    QCOMPARE(transport.plays(), Plays::Song);
    m_window->showStage(Stage::Keys);
    QCOMPARE(transport.plays(), Plays::Pattern);
  }
};

QTEST_MAIN(TestTour)
#include "tst_tour.moc"
