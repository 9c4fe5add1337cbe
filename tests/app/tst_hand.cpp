// The deck as an instrument and takes, through the real window.
#include "app/hand_window.h"
#include "base/tempo_map.h"
#include "beat/resolved_timing.h"
#include "keys/controller_picture.h"
#include "keys/duck_row.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestHand : public QObject, private HandWindow {
  Q_OBJECT

private slots:
  void initTestCase() { prepare(); }
  void init() { QVERIFY(openDemo()); }
  void cleanup() { closeDemo(); }

  void eightKeysAtOnceAndNoRepeat() {
    m_window->showStage(Stage::Keys);
    const QList<int> keys{Qt::Key_A, Qt::Key_S, Qt::Key_D, Qt::Key_F,
                          Qt::Key_G, Qt::Key_H, Qt::Key_R, Qt::Key_Y};
    Project next = project();
    for (const auto& key : next.keys)
      if (key.row != Row::Cuts)
        next = withKeyChanged(std::move(next), key.id, [](Key& k) {
          k.gate = k.loop.on = true; // for as long as they are held
          k.choke = 0;
          k.layers.clear();
        });
    m_services->document.edit("test", next);
    m_services->player.waitForBakes();
    QSignalSpy struck(&m_services->player, &Player::struck);
    for (int key : keys) type(key, true);
    for (int i = 0; i < 5; ++i) { // held down: the system repeats the event
      QKeyEvent again(QEvent::KeyPress, Qt::Key_A, {}, QString(), true);
      QCoreApplication::sendEvent(&m_window->view(Stage::Keys), &again);
    }
    EVENTUALLY_IS(m_services->player.engine().sounding(), 8);
    EVENTUALLY_IS(struck.size(), 8);
    type(Qt::Key_J, true); // what was struck before it has been told before it
    EVENTUALLY(struck.size() > 8);
    QCOMPARE(struck.size(), 9);
    type(Qt::Key_J, false);
    for (int key : keys) type(key, false);
    EVENTUALLY_IS(m_services->player.engine().sounding(), 0);
  }

  void theHandKeysSetTheHand() {
    m_window->showStage(Stage::Keys);
    tap(Qt::Key_9);
    tap(Qt::Key_9);
    QVERIFY(std::abs(m_services->hand.settings().velocity - 0.6) < 1e-9);
    tap(Qt::Key_0);
    QVERIFY(std::abs(m_services->hand.settings().velocity - 0.7) < 1e-9);
    tap(Qt::Key_Semicolon);
    QVERIFY(m_services->hand.settings().soft > 0);
    tap(Qt::Key_Semicolon);
    QCOMPARE(m_services->hand.settings().soft, 0.0);
    type(Qt::Key_L, true);
    QVERIFY(m_services->hand.settings().roll);
    type(Qt::Key_L, false);
    QVERIFY(!m_services->hand.settings().roll);
    const int page = m_services->document.selection().page;
    tap(Qt::Key_P);
    QCOMPARE(m_services->document.selection().page, page + 1);
    // The pointer does the same, and switches what a hand would hold.
    click(&deck(), deck().capOf(PerformanceKey::Roll).center());
    QVERIFY(m_services->hand.settings().roll);
    click(&deck(), deck().capOf(PerformanceKey::Roll).center());
    QVERIFY(!m_services->hand.settings().roll);
    emit slide(*m_window, "Velocity")->changed(35, true);
    QVERIFY(std::abs(m_services->hand.settings().velocity - 0.35) < 1e-9);
  }

  void aSpreadLaysOneSoundUnderAllKeys() {
    emptyPattern();
    selectKey(*m_services, keyAtPlace(Row::Floor, 4));
    tap(Qt::Key_O);
    QVERIFY(m_services->hand.settings().spread == SpreadBy::Semitones);
    QCOMPARE(m_services->hand.keyUnder(Row::Cuts, 3)->id, keyAtPlace(Row::Floor, 4));
    m_services->recorder.toggleRecord();
    QVERIFY(waitForBeat(0.2));
    tap(Qt::Key_D); // two semitones up
    QVERIFY(waitForBeat(1));
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    QCOMPARE(hits(), 1u);
    const Lane* lane = findLane(*pattern(), findKey(project(), keyAtPlace(Row::Floor, 4))->part);
    QVERIFY(lane && lane->hits.size() == 1);
    QVERIFY(std::abs(lane->hits[0].tune.value - 2) < 1e-5);
    // By length it must be a held key.
    m_services->document.edit("test", withKeyChanged(project(), keyAtPlace(Row::Floor, 4),
                                                     [](Key& k) { k.gate = false; }));
    m_services->hand.setSpread(SpreadBy::Length);
    QVERIFY(findKey(project(), keyAtPlace(Row::Floor, 4))->gate);
    tap(Qt::Key_O);
    QVERIFY(!m_services->hand.settings().spread);
  }

  // Every pass is heard on the next one, is a step of its own, and can be taken back while it goes
  // on.
  void passesAreLaidAsTheyAreAndUndoneOneByOne() {
    emptyPattern();
    m_services->recorder.toggleRecord();
    QVERIFY(m_services->recorder.recording() && m_services->transport.playing());
    QVERIFY(waitForBeat(0.9));
    tap(Qt::Key_Z);
    EVENTUALLY_IS(hits(), 1u); // laid while the take goes on
    QVERIFY(m_services->recorder.recording());
    EVENTUALLY(double(m_services->player.engine().absolutePosition().value) > 4.2 * 24000);
    tap(Qt::Key_A);
    EVENTUALLY_IS(hits(), 2u);
    m_services->document.undo(); // the second pass alone
    QCOMPARE(hits(), 1u);
    QVERIFY(m_services->recorder.recording());
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    QCOMPARE(hits(), 1u);
    m_services->document.undo();
    QCOMPARE(hits(), 0u);
    QCOMPARE(m_services->recorder.timing().parts.size(), 2u); // how it was played is said
  }

  // A strike is written where the music was that the player heard. On a busy machine the device is
  // asked late and then for several blocks at once, so that what is read here is not what is heard:
  // one of several strikes has to be right.
  void takesArePlacedWhereTheyWereHeard() {
    const double block =
        double(m_services->player.liveSound().device()->blockFrames() + Limiter::kLatency) / 24000;
    QString said;
    bool right = false;
    for (int attempt = 0; attempt < 6 && !right; ++attempt) {
      emptyPattern(2);
      m_services->recorder.toggleRecord();
      QVERIFY(waitForBeat(1.3));
      const double before = m_services->transport.positionBeats();
      tap(Qt::Key_Z);
      const double after = m_services->transport.positionBeats();
      QVERIFY(waitForBeat(after + 0.5));
      m_services->recorder.toggleRecord();
      m_services->transport.stop();
      QCOMPARE(hits(), 1u);
      const auto lane = std::find_if(pattern()->lanes.begin(), pattern()->lanes.end(),
                                     [](const Lane& each) { return !each.hits.empty(); });
      const double heard =
          ResolvedTiming(project(), pattern()->meter, *lane).heardAt(lane->hits[0]) /
          double(kTicksPerBeat);
      right = heard > before - 3 * block && heard < after + block;
      said += QString("%1 in %2 to %3; ").arg(heard).arg(before).arg(after);
    }
    QVERIFY2(right, qPrintable(said));
  }

  void replaceTakesOutWhatAPartHad() {
    emptyPattern();
    const Id kick = keyAtPlace(Row::Floor, 0), snare = keyAtPlace(Row::Body, 0);
    layHits(kick, 1);
    layHits(snare, 1);
    m_services->recorder.setReplaces(true);
    m_services->recorder.toggleRecord();
    QVERIFY(waitForBeat(0.6));
    tap(Qt::Key_Z);
    QVERIFY(waitForBeat(1.5));
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    const auto count = [&](Id key) {
      const Lane* lane = findLane(*pattern(), findKey(project(), key)->part);
      return lane ? lane->hits.size() : 0;
    };
    QCOMPARE(count(kick), 1u);
    QCOMPARE(count(snare), 4u);
    m_services->document.undo();
    QCOMPARE(count(kick), 4u);
  }

  void eraseTakesOutWhatPasses() {
    emptyPattern();
    layHits(keyAtPlace(Row::Floor, 0), 0.25);
    m_services->transport.togglePlay();
    QVERIFY(waitForBeat(0.6));
    type(Qt::Key_Period, true);
    type(Qt::Key_Z, true);
    QVERIFY(waitForBeat(1.7));
    type(Qt::Key_Z, false);
    type(Qt::Key_Period, false);
    m_services->transport.stop();
    QVERIFY(hits() <= 13 && hits() >= 10); // four or so of sixteen
    for (const auto& lane : pattern()->lanes) {
      if (lane.hits.empty()) continue;
      QCOMPARE(lane.hits.front().at.value, 0);
      QCOMPARE(lane.hits.back().at, Beats(15 * kTicksPerBeat / 4));
    }
    m_services->document.undo(); // one step
    QCOMPARE(hits(), 16u);
  }

  void whatWasPlayedAlongIsCaughtAfterwards() {
    emptyPattern();
    m_services->transport.togglePlay();
    QVERIFY(waitForBeat(0.5));
    tap(Qt::Key_Z);
    QVERIFY(waitForBeat(2));
    tap(Qt::Key_A);
    QVERIFY(waitForBeat(2.5));
    QCOMPARE(hits(), 0u); // nothing is written
    tap(Qt::Key_Slash);
    QCOMPARE(hits(), 2u);
    QVERIFY(m_services->transport.playing()); // and nothing stops
    QVERIFY(!m_services->recorder.caught().tempo);
    m_services->transport.stop();
    m_services->document.undo();
    QCOMPARE(hits(), 0u);
  }

  void whatWasPlayedAloneIsCaughtWithItsTempo() {
    emptyPattern(2);
    QSignalSpy played(&m_services->player, &Player::struck);
    QElapsedTimer clock;
    clock.start();
    for (int i = 0; i < 13; ++i) { // eighths at 100 BPM; the kick on the beats
      QTest::qWait(int(std::max<qint64>(0, i * 300 - clock.elapsed())));
      tap(i % 2 == 0 ? Qt::Key_Z : Qt::Key_Q);
    }
    EVENTUALLY(played.size() == 13);
    tap(Qt::Key_Slash);
    QVERIFY(m_services->recorder.caught().tempo);
    const double bpm = m_services->recorder.caught().tempo->bpm.value, ratio = bpm / 100;
    const double octave = std::exp2(std::round(std::log2(ratio)));
    QVERIFY2(std::abs(ratio / octave - 1) < 0.03, qPrintable(QString::number(bpm)));
    QVERIFY(hits() >= 8);
    auto& stage = static_cast<KeysStage&>(m_window->view(Stage::Keys));
    stage.showPanel("takes");
    press(button(stage, QString("Take %1 BPM").arg(bpm, 0, 'f', 1)));
    QVERIFY(std::abs(project().tempo.value - bpm) < 0.01);
  }

  void practiceWritesNothingAndWatches() {
    emptyPattern(4);
    m_services->recorder.togglePractice();
    QVERIFY(m_services->recorder.practising());
    QCOMPARE(m_services->player.score()->length.value, 8 * 24000); // two bars of the four
    QVERIFY(waitForBeat(0.1));
    for (int beat = 1; beat < 6; ++beat) {
      QVERIFY(waitForBeat(beat));
      tap(Qt::Key_Z);
    }
    QVERIFY(waitForBeat(6.3));
    m_services->recorder.togglePractice();
    QVERIFY(!m_services->recorder.practising());
    QCOMPARE(hits(), 0u);
    QCOMPARE(m_services->recorder.rounds().size(), 1u);
    QCOMPARE(m_services->recorder.rounds()[0].figures.hits, 5);
    QCOMPARE(m_services->player.score()->length.value, 16 * 24000);
  }

  void theTimingPictureChoosesAndPulls() {
    emptyPattern(2);
    m_services->recorder.toggleRecord();
    for (double beat : {0.55, 1.55, 2.55}) {
      QVERIFY(waitForBeat(beat));
      tap(Qt::Key_Z);
      tap(Qt::Key_Q);
    }
    QVERIFY(waitForBeat(3.2));
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    auto& stage = static_cast<KeysStage&>(m_window->view(Stage::Keys));
    stage.showPanel("takes");
    QCoreApplication::processEvents();
    TimingView& view = stage.take().timing();
    QCOMPARE(m_services->recorder.timing().parts.size(), 2u);
    click(&view, view.bandOf(1).center());
    QCOMPARE(view.part(), m_services->recorder.timing().parts[1].part);
    QTest::keyClick(&view, Qt::Key_Up);
    QCOMPARE(view.part(), m_services->recorder.timing().parts[0].part);
    press(button(stage, "Quantise"));
    const Lane* lane = findLane(*pattern(), view.part());
    QCOMPARE(lane->hits.size(), 3u);
    for (const auto& hit : lane->hits) QCOMPARE(hit.microTiming.value, 0.0);
  }

  // ---- a controller ----

  void aControllerPlaysIsTaughtAndRemembers() {
    emptyPattern();
    ControllerService& service = m_services->controllers;
    EVENTUALLY(service.hub().sourceOf(MidiHub::simulatedName()) > 0);
    SimulatedController& pads = service.hub().simulated();
    const auto strike = [&](int note, int velocity) {
      QSignalSpy came(&service, &ControllerService::changed);
      QSignalSpy lifted(&m_services->player, &Player::lifted);
      pads.send({MidiKind::NoteOn, 9, note, velocity});
      EVENTUALLY(!came.empty());
      pads.send({MidiKind::NoteOff, 9, note, 0});
      EVENTUALLY(!lifted.empty());
    };
    // Without teaching, drums lie by the General MIDI map; what is struck is written.
    m_services->recorder.toggleRecord();
    QVERIFY(waitForBeat(0.3));
    strike(36, 127);
    EVENTUALLY_IS(hits(), 1u);
    QCOMPARE(m_services->document.selection().key, keyAtPlace(Row::Floor, 0));
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    // A key is learnt, a slide, and a hand's velocities.
    service.learnKey({Row::Air, 3});
    QVERIFY(!service.learning().isEmpty());
    strike(36, 100);
    QVERIFY(service.learning().isEmpty());
    strike(36, 100);
    QCOMPARE(m_services->document.selection().key, keyAtPlace(Row::Air, 3));
    QString moved;
    double share = -1;
    connect(&service, &ControllerService::slideMoved, this, [&](const QString& slide, double to) {
      moved = slide;
      share = to;
    });
    service.learnSlide("hand.velocity", "Velocity");
    QVERIFY(service.learning().contains("Velocity"));
    pads.send({MidiKind::Control, 0, 74, 10});
    EVENTUALLY(service.learning().isEmpty());
    QVERIFY(moved.isEmpty()); // the first only teaches
    pads.send({MidiKind::Control, 0, 74, 127});
    EVENTUALLY_IS(moved, QString("hand.velocity"));
    QCOMPARE(share, 1.0);
    EVENTUALLY_IS(m_services->hand.settings().velocity, 1.0); // the slide went there
    QCOMPARE(slide(*m_window, "Velocity")->id(), QString("hand.velocity"));
    service.fitCurve(MidiHub::simulatedName());
    for (int velocity : {20, 25, 40, 44, 60, 90, 95}) strike(40, velocity);
    EVENTUALLY_IS(service.settings(MidiHub::simulatedName()).curve.hardest, 95);
    // Its clock is followed when it is asked for.
    service.change(MidiHub::simulatedName(), [](ControllerSettings& s) { s.followClock = true; });
    std::vector<TimedMidi> clock;
    for (int i = 0; i < 72; ++i) clock.push_back({i * 60 / 132.0 / 24, {MidiKind::Clock}});
    pads.play(clock);
    EVENTUALLY(std::abs(project().tempo.value - 132) < 0.5);
    pads.stop();
    pads.send({MidiKind::Start});
    EVENTUALLY(m_services->transport.playing());
    pads.send({MidiKind::Stop});
    EVENTUALLY(!m_services->transport.playing());
    // All of it is there at the next start.
    closeDemo();
    QVERIFY(openDemo());
    const auto kept = m_services->controllers.settings(MidiHub::simulatedName());
    QVERIFY(kept.notes.at(36) == (DeckSpot{Row::Air, 3}));
    QCOMPARE(QString::fromStdString(kept.slides.at(74)), QString("hand.velocity"));
    QCOMPARE(kept.curve.softest, 20);
    QVERIFY(kept.followClock);
  }

  // ---- the sound of a key, in its picture ----

  void thePictureIsDragged() {
    m_window->showStage(Stage::Keys);
    auto& stage = static_cast<KeysStage&>(m_window->view(Stage::Keys));
    selectKey(*m_services, keyAtPlace(Row::Floor, 0));
    settle();
    KeyPicture& picture = stage.sound().picture();
    const auto key = [&]() -> const Key& { return *findKey(project(), keyAtPlace(Row::Floor, 0)); };
    using Grip = KeyPicture::Grip;
    const auto drag = [&](QPointF from, QPointF by) {
      QTest::mousePress(&picture, Qt::LeftButton, {}, from.toPoint());
      for (QPointF to : {from + by / 2, from + by}) {
        QMouseEvent move(QEvent::MouseMove, to, picture.mapToGlobal(to), Qt::NoButton,
                         Qt::LeftButton, {});
        QCoreApplication::sendEvent(&picture, &move);
      }
      QTest::mouseRelease(&picture, Qt::LeftButton, {}, (from + by).toPoint());
      QCoreApplication::processEvents();
    };
    drag(*picture.placeOf(Grip::Attack), {60, 0});
    QVERIFY(key().envelope.attack.value > 20);
    drag(*picture.placeOf(Grip::AttackBend), {0, -20});
    QVERIFY(key().envelope.attackCurve > 0.05);
    m_services->document.undo();
    QCOMPARE(key().envelope.attackCurve, 0.0);
    drag(*picture.placeOf(Grip::LowPass), {-60, -30});
    QVERIFY(key().lowPass.value > 100 && key().lowPass.value < 15000);
    QVERIFY(key().resonance.value > 1);
    stage.sound().showGroup(SoundPanel::Group::Filter);
    QCoreApplication::processEvents();
    drag(*picture.placeOf(Grip::LowMoves), {-40, 0});
    QVERIFY(key().filterEnvelope.lowMoves < -0.5);
    // The demo's kick has a second layer: across is its delay.
    const QRectF lane = picture.laneOf(1);
    drag({lane.left() + 300, lane.bottom() - 30}, {30, 2});
    QCOMPARE(picture.layer(), 1);
    QVERIFY(key().layers[0].play.delay.value > 10);
    const std::size_t steps = m_services->document.history().place();
    drag({lane.left() + 300, lane.bottom() - 30}, {1, -40});
    QVERIFY(key().layers[0].play.level.value > -8);
    QCOMPARE(m_services->document.history().place(), steps + 1); // one gesture is one step
  }

  void anyPartIsMadeToStepBackUnderAnyOther() {
    m_window->showStage(Stage::Keys);
    auto& stage = static_cast<KeysStage&>(m_window->view(Stage::Keys));
    const Id hat = keyAtPlace(Row::Air, 0), snare = keyAtPlace(Row::Body, 0);
    const auto part = [&](Id key) -> const Part& {
      return *findPart(project(), findKey(project(), key)->part);
    };
    selectKey(*m_services, hat);
    stage.showPanel("level");
    auto* row = stage.findChild<DuckRow*>();
    auto* by = row->findChild<QComboBox*>();
    QVERIFY(!slide(*row, "Duck by")->isEnabled());
    QCOMPARE(by->findData(part(hat).id), -1); // not under itself
    const int place = by->findData(part(snare).id);
    QVERIFY(place > 0);
    by->setCurrentIndex(place);
    emit by->activated(place);
    QCOMPARE(part(hat).duck.by, part(snare).id);
    const std::size_t steps = m_services->document.history().place();
    emit slide(*row, "Duck by")->changed(14, false);
    emit slide(*row, "Duck by")->changed(15, true);
    emit slide(*row, "Back in")->changed(300, true);
    QCOMPARE(part(hat).duck, (Duck{part(snare).id, Decibels(15), Milliseconds(300)}));
    QCOMPARE(m_services->document.history().place(), steps + 2);
    selectKey(*m_services, snare); // each part has its own
    QCOMPARE(by->currentIndex(), 0);
    selectKey(*m_services, hat);
    QCOMPARE(by->currentData().toUInt(), part(snare).id);
  }

  void everySlideHasAnIdOfItsOwn() {
    std::map<QString, int> ids;
    for (auto* each : m_window->findChildren<Slide*>()) {
      QVERIFY2(!each->id().isEmpty(), qPrintable(each->accessibleName()));
      QVERIFY(each->id().contains(QRegularExpression("^[a-z]+(\\.[a-zA-Z0-9-]+)+$")));
      QVERIFY2(++ids[each->id()] == 1, qPrintable(each->id()));
      if (qEnvironmentVariableIsSet("TUVVO_LIST"))
        qInfo("OLD %s/%s %s", each->parentWidget()->metaObject()->className(),
              qPrintable(each->accessibleName()), qPrintable(each->id()));
    }
    QVERIFY(ids.size() > 80);
  }

  void layersAreAddedWeighedAndTakenAway() {
    m_window->showStage(Stage::Keys);
    auto& stage = static_cast<KeysStage&>(m_window->view(Stage::Keys));
    selectKey(*m_services, keyAtPlace(Row::Body, 0));
    stage.showPanel("layers");
    const auto key = [&]() -> const Key& { return *findKey(project(), keyAtPlace(Row::Body, 0)); };
    stage.sound().addLayer(findKey(project(), keyAtPlace(Row::Body, 2))->sound);
    QCOMPARE(key().layers.size(), 1u);
    QCOMPARE(stage.sound().picture().layer(), 1); // the new one is chosen
    emit slide(stage, "Delay")->changed(9, true);
    QCOMPARE(key().layers[0].play.delay.value, 9.0);
    QCOMPARE(key().own.delay.value, 0.0);
    QVERIFY(!slide(stage, "Up to velocity")->isEnabled());
    for (auto* each : stage.findChildren<QComboBox*>())
      if (each->accessibleName() == "Which layers sound") emit each->activated(1);
    QVERIFY(key().mode == LayerMode::ByVelocity);
    QCOMPARE(key().own.upTo, 0.5);
    emit slide(stage, "Up to velocity")->changed(80, true);
    QCOMPARE(key().layers[0].play.upTo, 0.8);
    emit slide(stage, "High-pass of the layer")->changed(300, true);
    emit slide(stage, "Decay of the layer")->changed(90, true);
    press(button(stage, "Inverted"));
    QCOMPARE(key().layers[0].play.highPass.value, 300.0);
    QCOMPARE(key().layers[0].play.decay.value, 90.0);
    QVERIFY(key().layers[0].play.inverted && !key().own.inverted);
    press(button(stage, "Remove the layer"));
    QVERIFY(key().layers.empty());
    press(button(stage, "Held"));
    QVERIFY(key().gate);
    press(button(stage, "Loop"));
    QVERIFY(!key().gate && key().loop.on);
    press(button(stage, "To its end"));
    QVERIFY(!key().gate && !key().loop.on);
  }

  void theControllersPictureShowsWhatPlaysAndWhatWasStruck() {
    m_window->showStage(Stage::Keys);
    auto& stage = static_cast<KeysStage&>(m_window->view(Stage::Keys));
    stage.showPanel("controllers");
    auto& service = m_services->controllers;
    const MidiPortName pads = MidiHub::simulatedName();
    EVENTUALLY(service.hub().sourceOf(pads) > 0);
    service.change(pads, [](ControllerSettings& s) { s = {}; }); // nothing taught
    settle();
    auto* picture = stage.findChild<ControllerPicture*>();
    QVERIFY(picture && picture->isVisible());
    // General MIDI's percussion: 36 is the bass drum, 42 and 44 are hats.
    QCOMPARE(picture->notesOf({Row::Floor, 0}), std::vector<int>{36});
    QCOMPARE(picture->notesOf({Row::Air, 0}), std::vector<int>{42});
    QVERIFY(picture->notesOf({Row::Cuts, 0}).empty());
    QCOMPARE(picture->litOf({Row::Floor, 0}), 0.0);
    const QImage still = picture->grab().toImage();
    emit service.noteCame(pads, 36, 127);
    QVERIFY(picture->litOf({Row::Floor, 0}) > 0.5);
    QCOMPARE(picture->litOf({Row::Body, 0}), 0.0);
    QVERIFY(picture->grab().toImage() != still);
    EVENTUALLY_IS(picture->litOf({Row::Floor, 0}), 0.0);
    // What it was taught comes before the layout; a knob has its slide.
    service.change(pads, [](ControllerSettings& s) {
      s.notes[60] = {Row::Cuts, 2};
      s.slides[21] = "key.low-pass";
    });
    QCOMPARE(picture->notesOf({Row::Cuts, 2}), std::vector<int>{60});
    const QImage before = picture->grab().toImage();
    emit service.controlCame(pads, 21, 100);
    QVERIFY(picture->grab().toImage() != before);
    service.change(pads, [](ControllerSettings& s) { s.layout = NoteLayout::Pitch; });
    QVERIFY(picture->grab().toImage() != before);
  }
};

QTEST_MAIN(TestHand)
#include "tst_hand.moc"
