// The Beat stage of the real window: hits chosen, changed, copied; patterns beside each other.
#include "app/demo_window.h"
#include "beat/hit_choice.h"
#include "choose.h"
#include "patience.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestBeatStage : public QObject, DemoWindow {
  Q_OBJECT

  BeatStage& stage() { return static_cast<BeatStage&>(m_window->view(Stage::Beat)); }
  RibbonsView& ribbons() { return stage().ribbons(); }
  HitChoice& choice() { return stage().choice(); }
  PatternPtr pattern() { return findPattern(project(), m_services->document.selection().pattern); }
  const Lane& lane() { return *findLane(*pattern(), ribbons().currentPart()); }
  void key(Qt::Key which, Qt::KeyboardModifiers with = {}) {
    QTest::keyClick(&ribbons(), which, with);
    QCoreApplication::processEvents();
  }
  /// The middle of the first ribbon that has hits, at a beat.
  QPointF placeAt(double beat) { return {ribbons().xOf(beat), 30}; }

private slots:
  void initTestCase() { prepare(); }
  void init() {
    QVERIFY(openDemo());
    m_window->showStage(Stage::Beat);
    QCoreApplication::processEvents();
  }
  void cleanup() { closeDemo(); }

  void hitsAreChosenByTheirPlace() {
    auto* which = named<QComboBox>(stage(), "Choose hits");
    emit which->activated(5);
    QVERIFY(!choice().empty());
    for (const auto& each : choice().hits())
      QCOMPARE(classOf(each.hit.at, pattern()->meter), BeatClass::OffBeats);
    const auto offBeats = choice().hits().size();
    emit which->activated(1);
    QCOMPARE(choice().hits().size(), lane().hits.size());
    QVERIFY(lane().hits.size() > offBeats);
    key(Qt::Key_Escape);
    QVERIFY(choice().empty());
    key(Qt::Key_A, Qt::ControlModifier);
    QCOMPARE(choice().hits().size(), lane().hits.size());
  }

  void everySlideOfAHitChangesAllThatAreChosen() {
    command(stage(), "Chosen hits");
    command(stage(), "Choose all hits of the part");
    const auto all = lane().hits.size();
    const auto every = [&](auto is) {
      return choice().hits().size() == all &&
             std::all_of(lane().hits.begin(), lane().hits.end(), is);
    };
    const auto set = [&](const char* name, double value) {
      emit slide(stage(), name)->changed(value, true);
    };
    set("Velocity", 61);
    QVERIFY(every([](const Hit& p) { return std::abs(p.velocity - 0.61) < 1e-9; }));
    set("Early or late", -7);
    QVERIFY(every([](const Hit& p) { return p.microTiming.value == -7; }));
    set("Pan", 40);
    QVERIFY(every([](const Hit& p) { return p.pan == 0.4; }));
    set("Start", 25);
    QVERIFY(every([](const Hit& p) { return p.start == 0.25; }));
    set("Brightness", -2);
    QVERIFY(every([](const Hit& p) { return p.bright == -2; }));
    set("Length", 0.5);
    QVERIFY(every([](const Hit& p) { return inBeats(p.length) == 0.5; }));
    set("Roll", 4);
    set("Roll ends at", 50);
    set("Roll tune", 5);
    emit named<QComboBox>(stage(), "Roll division")->activated(5);
    QVERIFY(every([](const Hit& p) {
      return p.roll == Roll{4, Beats(kTicksPerBeat / 12), 0.5, Semitones(5)};
    }));
    set("Flam", 22);
    set("Flam level", 30);
    QVERIFY(every([](const Hit& p) { return p.flam == Flam{Milliseconds(22), 0.3}; }));
    set("Chance", 80);
    set("Every", 4);
    set("On round", 3);
    QVERIFY(every([](const Hit& p) { return p.condition == Condition{0.8, 4, 3}; }));
    press(button(stage(), "Reverse"));
    QVERIFY(every([](const Hit& p) { return p.reversed; }));
    set("Tune", 3);
    QVERIFY(every([](const Hit& p) { return p.tune.value == 3; }));
    settle(); // played backwards, it is baked
    const Score score = *m_services->player.score();
    QVERIFY(score.patches.size() > project().keys.size());
  }

  void hitsAreTreatedAloneAndGlide() {
    command(stage(), "Chosen hits");
    choice().chooseOne(ribbons().currentPart(), lane().hits[1]);
    const auto change = [&](const char* kind) {
      press(button(stage(), "Treat"));
      QVERIFY(QApplication::activePopupWidget());
      command(*QApplication::activePopupWidget(), kind);
      settle();
    };
    change("Stutter");
    QCOMPARE(choice().first().treatments.list().treatments.size(), std::size_t(1));
    QVERIFY(choice().first().treatments.list().treatments[0].is<treat::Stutter>());
    emit slide(stage(), "times")->changed(6, true);
    QCOMPARE(choice().first().treatments.list().treatments[0].as<treat::Stutter>()->count, 6);
    emit slide(stage(), "Treated every")->changed(4, true);
    emit slide(stage(), "Treated in")->changed(3, true);
    QCOMPARE(choice().first().treatments.list().every, 4);
    QCOMPARE(choice().first().treatments.list().turn, 3);
    emit slide(stage(), "Glide")->changed(80, true);
    emit slide(stage(), "Glide from")->changed(-7, true);
    QVERIFY((choice().first().glide == Glide{Milliseconds(80), Semitones(-7)}));
    int treated = 0;
    for (const auto& hit : lane().hits) treated += !hit.treatments.empty();
    QCOMPARE(treated, 1);
    press(button(stage(), "Remove"));
    QVERIFY(choice().first().treatments.empty());
    m_services->document.undo();
    QVERIFY(std::any_of(lane().hits.begin(), lane().hits.end(),
                        [](const Hit& hit) { return !hit.treatments.empty(); }));
  }

  void hitsAreShapedTogether() {
    command(stage(), "Chosen hits");
    command(stage(), "Choose all hits of the part");
    const auto before = lane().hits;
    press(button(stage(), "Shape"));
    slide(*m_window, "Humanise once")->moveTo(5);
    const auto some = lane().hits;
    QVERIFY(some != before);
    // The slide turns what was there before, not what it has made.
    slide(*m_window, "Humanise once")->moveTo(10);
    slide(*m_window, "Humanise once")->moveTo(0);
    QVERIFY(lane().hits == before);
    press(button(*m_window, "Random order"));
    press(button(*m_window, "Even distances"));
    const auto made = lane().hits;
    m_services->document.goToStep(0);
    QVERIFY(lane().hits == before);
    while (m_services->document.history().canRedo()) m_services->document.redo();
    QVERIFY(lane().hits == made);
  }

  void hitsGoToOtherKeys() {
    const Id from = ribbons().currentPart();
    const auto before = pattern();
    const HitOf first{from, lane().hits[0]};
    choice().chooseOne(from, first.hit);
    // By keys: the menu of keys.
    command(stage(), "Send the hits to another key");
    const Key* target = nullptr;
    for (const auto& each : project().keys)
      if (each.part != 0 && each.part != from) target = &each;
    QVERIFY(target);
    QSignalSpy said(&stage(), &Panel::message);
    choice().send(target->id, SendAs::Copy);
    QVERIFY(said.front()[0].toString().startsWith("1 hit on "));
    QCOMPARE(choice().hits().size(), std::size_t(1));
    QCOMPARE(choice().hits()[0].part, target->part);
    QCOMPARE(choice().first().at, first.hit.at);
    QVERIFY(findLane(*pattern(), from)->hits == findLane(*before, from)->hits);
    m_services->document.undo();
    QVERIFY(*pattern() == *before);
    // By pointer: dragged onto another part's name.
    const Lane& now = *findLane(*pattern(), from);
    const ResolvedTiming timed(project(), pattern()->meter, now);
    const QPoint pin(int(ribbons().xOf(timed.heardAt(now.hits[0]) / double(kTicksPerBeat))),
                     int(placeAt(0).y()));
    QTest::mousePress(&ribbons(), Qt::LeftButton, {}, pin);
    QMouseEvent move(QEvent::MouseMove, QPointF(20, 100), QPointF(20, 100), Qt::NoButton,
                     Qt::LeftButton, {});
    QCoreApplication::sendEvent(&ribbons(), &move);
    QTest::mouseRelease(&ribbons(), Qt::LeftButton, {}, QPoint(20, 100));
    QVERIFY(choice().hits().size() == 1 && choice().hits()[0].part != from);
    QCOMPARE(findLane(*pattern(), from)->hits.size(), findLane(*before, from)->hits.size() - 1);
    m_services->document.undo();
    QVERIFY(*pattern() == *before);
  }

  void chosenHitsMoveTogether() {
    const auto before = lane().hits;
    command(stage(), "Choose all hits of the part");
    key(Qt::Key_Right, Qt::AltModifier);
    QCOMPARE(lane().hits.front().at, before.front().at + Beats(kTicksPerBeat / 4));
    key(Qt::Key_Left, Qt::AltModifier);
    QCOMPARE(lane().hits.front().at, before.front().at);
    key(Qt::Key_Minus);
    QVERIFY(std::abs(lane().hits.front().velocity - (before.front().velocity - 0.05)) < 1e-9);
    key(Qt::Key_Right, Qt::ControlModifier);
    QCOMPARE(lane().hits.front().microTiming.value, before.front().microTiming.value + 1);
    m_services->document.goToStep(0);
    QVERIFY(lane().hits == before);
    QVERIFY(choice().empty()); // what was chosen is not there any more
  }

  void aFrameChoosesAndClicksAddToIt() {
    const double from = 0.9, until = 2.1;
    QTest::mousePress(&ribbons(), Qt::LeftButton, Qt::ShiftModifier, placeAt(from).toPoint());
    QMouseEvent move(QEvent::MouseMove, placeAt(until), ribbons().mapToGlobal(placeAt(until)),
                     Qt::NoButton, Qt::LeftButton, Qt::ShiftModifier);
    QCoreApplication::sendEvent(&ribbons(), &move);
    QVERIFY(!ribbons().grab().isNull());
    QTest::mouseRelease(&ribbons(), Qt::LeftButton, Qt::ShiftModifier, placeAt(until).toPoint());
    QVERIFY(choice().hits().size() >= 2);
    for (const auto& each : choice().hits()) {
      QVERIFY(inBeats(each.hit.at) > from - 0.2);
      QVERIFY(inBeats(each.hit.at) < until + 0.2);
    }
    const auto some = choice().hits().size();
    const Hit one = choice().first();
    const double x =
        ResolvedTiming(project(), pattern()->meter, lane()).heardAt(one) / double(kTicksPerBeat);
    QTest::mouseClick(&ribbons(), Qt::LeftButton, Qt::ControlModifier, placeAt(x).toPoint());
    QCOMPARE(choice().hits().size(), some - 1);
    QTest::mouseClick(&ribbons(), Qt::LeftButton, Qt::ControlModifier, placeAt(x).toPoint());
    QCOMPARE(choice().hits().size(), some);
    key(Qt::Key_Delete);
    QVERIFY(choice().empty());
  }

  void copiedAndPastedToTheEnd() {
    const Beats bar = barOf(pattern()->meter);
    HitClip first;
    for (const auto& hit : lane().hits)
      if (hit.at < bar) first.push_back({ribbons().currentPart(), hit});
    const auto each = first.size();
    choice().chooseAll(ribbons().currentPart());
    command(stage(), "Remove the chosen hits");
    QCOMPARE(lane().hits.size(), std::size_t(0));
    m_services->document.undo();
    choice().choose(first);
    command(stage(), "Copy hits");
    choice().chooseAll(ribbons().currentPart());
    command(stage(), "Remove the chosen hits");
    command(stage(), "Paste hits to the end"); // the cursor is at the beginning
    QCOMPARE(lane().hits.size(), each * std::size_t(pattern()->bars));
    for (const auto& like : barsAlike(project(), *withOnly(*pattern())))
      QVERIFY(like.letter == 0 && like.exact);
    command(stage(), "Cut hits");
    QCOMPARE(lane().hits.size(), std::size_t(0));
    command(stage(), "Paste hits");
    QCOMPARE(lane().hits.size(), each * std::size_t(pattern()->bars));
  }

  void rampsAndStretches() {
    command(stage(), "Chosen hits");
    choice().choose({});
    HitClip first;
    for (const auto& hit : lane().hits)
      if (inBeats(hit.at) < 2) first.push_back({ribbons().currentPart(), hit});
    choice().choose(first);
    press(button(stage(), "Shape"));
    auto* shape = named<QComboBox>(*m_window, "Velocity shape");
    shape->setCurrentIndex(1);
    emit shape->activated(1); // rise
    double last = 0;
    for (const auto& each : choice().hits()) {
      QVERIFY(each.hit.velocity > last);
      last = each.hit.velocity;
    }
    const Beats span = choice().hits().back().hit.at;
    press(button(stage(), "Half as fast"));
    QCOMPARE(choice().hits().back().hit.at, span * 2);
    press(button(stage(), "Twice as fast"));
    QCOMPARE(choice().hits().back().hit.at, span);
  }

  void alternativesSplitAndJoin() {
    const Id first = pattern()->id;
    const int bars = pattern()->bars;
    command(stage(), "Alternative of the pattern");
    QVERIFY(pattern()->id != first);
    const Id second = pattern()->id;
    press(button(stage(), "1"));
    QCOMPARE(pattern()->id, first);
    press(button(stage(), "2"));
    QCOMPARE(pattern()->id, second);
    press(button(stage(), "Use in the song"));
    for (const auto& section : project().sections) QVERIFY(section.pattern != first);
    selectPattern(*m_services, first);
    QSignalSpy said(m_services.get(), &Services::message);
    command(stage(), "Split the pattern at the cursor"); // it is in the first bar
    QCOMPARE(said.count(), 1);
    QCOMPARE(pattern()->id, first);
    while (ribbons().cursor() < barOf(pattern()->meter) * 2) ribbons().moveCursor(1, 0);
    command(stage(), "Split the pattern at the cursor");
    QCOMPARE(pattern()->bars, 2);
    command(stage(), "Join the pattern with the next");
    QCOMPARE(pattern()->bars, bars);
    const PatternPtr whole = findPattern(project(), first);
    for (const auto& lane : whole->lanes)
      if (!lane.hits.empty()) QVERIFY(findLane(*pattern(), lane.part)->hits == lane.hits);
  }

  void meterGridAndLongPatterns() {
    auto* meter = named<QComboBox>(stage(), "Meter");
    meter->lineEdit()->setText("7/8");
    emit meter->lineEdit()->editingFinished();
    QCOMPARE(pattern()->meter, (Meter{7, 8}));
    QSignalSpy said(m_services.get(), &Services::message);
    meter->lineEdit()->setText("seven");
    emit meter->lineEdit()->editingFinished();
    QCOMPARE(said.count(), 1);
    QCOMPARE(meter->currentText(), QString("7/8"));
    emit meter->activated(0);
    QCOMPARE(pattern()->meter, (Meter{4, 4}));
    emit slide(stage(), "Bars")->changed(64, true);
    QCOMPARE(pattern()->bars, 64);
    command(stage(), "Double the pattern");
    QCOMPARE(pattern()->bars, 64);
    QVERIFY(said.count() >= 2);
    // No grid: a hit is set where the pointer is, to the pixel.
    emit named<QComboBox>(stage(), "Grid")->activated(10);
    QCOMPARE(ribbons().grid(), 0);
    for (int i = 0; i < 6; ++i) command(stage(), "Show less of the pattern");
    QVERIFY(ribbons().shown() < 8);
    const double beat = ribbons().from() + 1.2345;
    click(&ribbons(), placeAt(beat));
    QVERIFY(std::abs(inBeats(choice().first().at) - beat) < 0.03);
    QVERIFY(choice().first().at.value % (kTicksPerBeat / 4) != 0);
    command(stage(), "Show all of the pattern");
    QCOMPARE(ribbons().shown(), 256.0);
    QCOMPARE(ribbons().from(), 0.0);
  }

  // Out as a MIDI file and in again: another pattern that strikes the same keys as often.
  void midiGoesOutAndComesIn() {
    QSignalSpy said(m_services.get(), &Services::message);
    const QString path = m_dir.filePath("crossing.mid");
    const Id before = pattern()->id;
    stage().writeMidi(path);
    settle();
    QVERIFY(QFileInfo(path).size() > 100);
    stage().readMidi(path);
    QVERIFY(pattern()->id != before);
    QCOMPARE(QString::fromStdString(pattern()->name), QString("crossing"));
    const Id hats = ribbons().currentPart();
    QCOMPARE(findLane(*pattern(), hats)->hits.size(),
             findLane(*findPattern(project(), before), hats)->hits.size());
    QFile(path).resize(30);
    stage().readMidi(path);
    QVERIFY(said.last()[0].toString().contains("damaged or cut off"));
    QVERIFY(said.last()[1].toBool());
    stage().writeMidi("/nowhere/at all.mid");
    settle();
    QVERIFY(said.last()[1].toBool());
    m_services->document.undo();
    QVERIFY(!findPattern(project(), m_services->document.selection().pattern) ||
            pattern()->id == before);
  }

  // A figure every beat and a half: it is drawn round and round, and where all meet is said.
  void aLaneOfItsOwnLength() {
    command(stage(), "Feel of the part");
    QWidget* strip = named<QWidget>(stage(), "Bars alike");
    const QImage before = strip->grab().toImage();
    emit slide(stage(), "Own length")->changed(1.5, true);
    QCOMPARE(*meetingOf(*pattern()), wholeBeats(48)); // of four bars
    EVENTUALLY(strip->grab().toImage() != before);    // bars are compared a little after an edit
    command(stage(), "Write ribbons of their own length out");
    QCOMPARE(lane().length, Beats(0));
    QVERIFY(!lane().hits.empty());
  }

  // Sixty-four bars with twenty thousand hits: shown, changed and played without a pause.
  void aCrowdedPatternWorks() {
    const Id part = ribbons().currentPart();
    const Id struck = lane().hits.front().key;
    m_services->document.edit("crowd",
                              withPatternChanged(project(), pattern()->id, [&](Pattern& p) {
                                p.bars = 64;
                                Lane& lane = laneOf(p, part);
                                lane.hits.clear();
                                for (int i = 0; i < 20'000; ++i) {
                                  Hit hit;
                                  hit.at = Beats(256 * kTicksPerBeat / 20'000 * i);
                                  hit.key = struck;
                                  hit.velocity = 0.2 + 0.0003 * (i % 2000);
                                  lane.hits.push_back(hit);
                                }
                              }));
    QCoreApplication::processEvents();
    QVERIFY(!ribbons().grab().isNull());
    choice().chooseAll(part);
    QCOMPARE(choice().hits().size(), std::size_t(20'000));
    key(Qt::Key_Right, Qt::ControlModifier);
    QCOMPARE(lane().hits[777].microTiming.value, 1.0);
    QVERIFY(!ribbons().grab().isNull());
    m_services->document.undo();
    QCOMPARE(lane().hits[777].microTiming.value, 0.0);
  }

private:
  /// The pattern with the current part's lane alone.
  PatternPtr withOnly(Pattern of) {
    std::erase_if(of.lanes, [&](const Lane& l) { return l.part != ribbons().currentPart(); });
    return std::make_shared<Pattern>(std::move(of));
  }
};

QTEST_MAIN(TestBeatStage)
#include "tst_beat_stage.moc"
