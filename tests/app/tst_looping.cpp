// Bars that go round, in the real window: chosen by keys and by drag, played into, erased in,
// practised.
#include "app/hand_window.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestLooping : public QObject, private HandWindow {
  Q_OBJECT

private slots:
  void initTestCase() { prepare(); }
  void init() { QVERIFY(openDemo()); }
  void cleanup() { closeDemo(); }

  void barsAreLoopedByKeysAndByDrag() {
    emptyPattern(4);
    m_window->showStage(Stage::Beat);
    auto& transport = m_services->transport;
    auto& stage = static_cast<BeatStage&>(m_window->view(Stage::Beat));
    const auto bars = [&] { return transport.loopedBars().value_or(std::pair(0, 0)); };
    // By keys, from and to where the cursor is.
    for (int step = 0; step < 20; ++step) QTest::keyClick(&stage.ribbons(), Qt::Key_Right);
    command(*m_window, "Loop from here");
    QCOMPARE(bars(), (std::pair(2, 4)));
    for (int step = 0; step < 16; ++step) QTest::keyClick(&stage.ribbons(), Qt::Key_Right);
    command(*m_window, "Loop to here");
    QCOMPARE(bars(), (std::pair(2, 3)));
    command(*m_window, "Loop the last bar");
    QCOMPARE(bars(), (std::pair(3, 3)));
    QCOMPARE(m_services->player.score()->round().value, 4 * 24000);
    command(*m_window, "Loop all of it again");
    QVERIFY(!transport.loop());
    // By drag over the strip, either way; once more inside of it lets go.
    auto* strip = stage.findChild<AlikeStrip*>();
    const auto place = [&](double beat) { return QPoint(int(stage.ribbons().xOf(beat)), 8); };
    QTest::mousePress(strip, Qt::LeftButton, {}, place(14));
    QMouseEvent move(QEvent::MouseMove, QPointF(place(6)), QPointF(place(6)), Qt::NoButton,
                     Qt::LeftButton, {});
    QCoreApplication::sendEvent(strip, &move);
    QTest::mouseRelease(strip, Qt::LeftButton, {}, place(6));
    QCOMPARE(bars(), (std::pair(2, 4)));
    QVERIFY(strip->accessibleDescription().contains("Bars 2 to 4"));
    QTest::mouseClick(strip, Qt::LeftButton, {}, place(6));
    QVERIFY(!transport.loop());
    QTest::mouseClick(strip, Qt::LeftButton, {}, place(6));
    QCOMPARE(bars(), (std::pair(2, 2)));
    // A loop belongs to its pattern; nothing of it is an edit.
    const auto steps = m_services->document.history().place();
    selectPattern(*m_services, project().patterns.front()->id);
    QVERIFY(!transport.loop());
    QCOMPARE(m_services->document.history().place(), steps);
    // In the song, over its sections; whoever plays from elsewhere lets go of it.
    m_window->showStage(Stage::Song);
    auto* song = m_window->view(Stage::Song).findChild<SongView*>();
    QTest::mouseClick(song, Qt::LeftButton, {}, QPoint(song->width() / 2, 20));
    QVERIFY(transport.loop() && transport.plays() == Plays::Song);
    transport.play(0);
    QVERIFY(transport.loop());
    transport.play(inBeats(transport.loop()->until) + 1);
    QVERIFY(!transport.loop());
    transport.stop();
  }

  // Counted in one way and laid in another they would stand elsewhere.
  void barsAreChosenWhileATakeGoesOn() {
    emptyPattern(4);
    m_services->recorder.toggleRecord();
    QVERIFY(waitForBeat(2.9));
    tap(Qt::Key_Z);
    EVENTUALLY_IS(hits(), 1u);
    QVERIFY(waitForBeat(5));
    m_services->transport.loopLastBar(m_services->transport.positionBeats());
    QVERIFY(m_services->recorder.recording() && m_services->transport.playing());
    const LoopSpan loop = *m_services->transport.loop();
    EVENTUALLY(double(m_services->player.engine().absolutePosition().value) >
               (inBeats(loop.until) + 1.5) * 24000);
    tap(Qt::Key_A);
    EVENTUALLY_IS(hits(), 2u);
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    const Lane* first = findLane(*pattern(), findKey(project(), keyAtPlace(Row::Floor, 0))->part);
    const Lane* second = findLane(*pattern(), findKey(project(), keyAtPlace(Row::Body, 0))->part);
    QVERIFY(first && second);
    QVERIFY(first->hits[0].at < at(4));
    QVERIFY(second->hits[0].at >= loop.from && second->hits[0].at < loop.until);
    // Fewer bars than it goes round in: all that is left goes round.
    m_services->transport.loopBars(3, 1);
    m_services->document.edit("test", withPatternChanged(project(), pattern()->id, [](Pattern& p) {
                                p = withBars(std::move(p), 2);
                              }));
    QVERIFY(!m_services->transport.loop());
  }

  void aTakeInALoopStaysInIt() {
    emptyPattern(4);
    m_services->transport.loopBars(1, 1);
    m_services->recorder.toggleRecord();
    QVERIFY(waitForBeat(4.9)); // it begins with its first bar
    tap(Qt::Key_Z);
    EVENTUALLY_IS(hits(), 1u);
    EVENTUALLY(double(m_services->player.engine().absolutePosition().value) > 9.3 * 24000);
    QVERIFY(m_services->transport.positionBeats() < 8);
    tap(Qt::Key_A);
    EVENTUALLY_IS(hits(), 2u);
    m_services->recorder.toggleRecord();
    for (const auto& lane : pattern()->lanes)
      for (const auto& hit : lane.hits) QVERIFY(hit.at >= at(4) && hit.at < at(8));
    m_services->document.undo(); // the second round alone
    QCOMPARE(hits(), 1u);
    // What is played along is kept afterwards inside of it, too.
    m_services->document.undo();
    tap(Qt::Key_Q);
    tap(Qt::Key_Slash);
    QVERIFY(hits() >= 1);
    for (const auto& lane : pattern()->lanes)
      for (const auto& hit : lane.hits) QVERIFY(hit.at >= at(4) && hit.at < at(8));
    m_services->transport.stop();
  }

  void whatIsErasedOverALoopsEndIsOfBothEnds() {
    emptyPattern(2);
    layHits(keyAtPlace(Row::Floor, 0), 0.25);
    m_services->transport.loopBars(0, 1);
    m_services->transport.togglePlay();
    QVERIFY(waitForBeat(3.3));
    type(Qt::Key_Period, true);
    type(Qt::Key_Z, true);
    EVENTUALLY(double(m_services->player.engine().absolutePosition().value) > 4.6 * 24000);
    type(Qt::Key_Z, false);
    type(Qt::Key_Period, false);
    m_services->transport.stop();
    for (const auto& lane : pattern()->lanes) {
      if (lane.hits.empty()) continue;
      QVERIFY(lane.hits.front().at > at(0) && lane.hits.back().at < at(3.9));
      QVERIFY(lane.hits.size() >= 5);
    }
  }

  void practiceIsInTheBarsThatAreLooped() {
    emptyPattern(4);
    m_services->transport.loopBars(2, 1);
    m_services->recorder.togglePractice();
    QCOMPARE(m_services->player.score()->loopStart.value, 8 * 24000);
    QVERIFY(waitForBeat(8.6));
    tap(Qt::Key_Z);
    EVENTUALLY(m_services->recorder.rounds().size() == 1);
    m_services->recorder.togglePractice();
    QCOMPARE(m_services->recorder.rounds()[0].figures.hits, 1);
    QVERIFY(m_services->transport.loop()); // it was chosen before, and stays
    QCOMPARE(hits(), 0u);
  }
};

QTEST_MAIN(TestLooping)
#include "tst_looping.moc"
