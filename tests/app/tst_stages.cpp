// Each stage of the real window on the demo, by pointer and by the controls that stand on it.
#include "app/demo_window.h"
#include "beat/feel_panel.h"
#include "choose.h"
#include "patience.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestStages : public QObject, DemoWindow {
  Q_OBJECT

private slots:
  void initTestCase() { prepare(); }
  void init() { QVERIFY(openDemo()); }
  void cleanup() { closeDemo(); }

  // ---- cut ----

  void everyWayToCutHasItsSegment() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("pier nine break"));
    auto& stage = m_window->view(Stage::Cut);
    press(button(stage, "Equal"));
    QCOMPARE(current()->cutting.mode, CutMode::Equal);
    slide(stage, "Parts")->setFocus();
    emit slide(stage, "Parts")->changed(12, true);
    QCOMPARE(int(current()->cuts.size()), 12);
    press(button(stage, "Beats"));
    QCOMPARE(current()->cutting.mode, CutMode::Beats);
    const auto beats = current()->cuts.size();
    emit slide(stage, "Slices a beat")->changed(2, true);
    QVERIFY(current()->cuts.size() >= 2 * beats - 2);
    press(button(stage, "Hits"));
    const auto hits = current()->cuts.size();
    emit slide(stage, "Sensitivity")->changed(10, true);
    QVERIFY(current()->cuts.size() < hits);
  }

  void aHitIsCalledSomethingElse() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("pier nine break"));
    selectCut(*m_services, current()->id, current()->cuts[2].id);
    auto* wave = find<WaveView>(Stage::Cut);
    const auto choose = [](const QString& start) {
      QTimer::singleShot(0, qApp, [start] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        if (!menu) return;
        for (QAction* action : menu->actions())
          if (action->text().startsWith(start) && action->text().endsWith("something else"))
            action->trigger();
        menu->close();
      });
    };
    choose("Only this one");
    wave->nameChosenHit();
    QCOMPARE(current()->corrections.hits.size(), std::size_t(1));
    choose("All");
    wave->nameChosenHit();
    QVERIFY(current()->corrections.hits.size() > 1);
    m_services->document.undo();
    QCOMPARE(current()->corrections.hits.size(), std::size_t(1));
    m_services->document.undo();
    QVERIFY(current()->corrections.hits.empty());
  }

  void cuttingByBeatsWithoutATempoSaysSo() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("quay at night"));
    const ProjectPtr before = m_services->document.projectPtr();
    QSignalSpy said(m_services.get(), &Services::message);
    press(button(m_window->view(Stage::Cut), "Beats"));
    QVERIFY(before == m_services->document.projectPtr());
    QVERIFY(said.count() == 1 && said.first().first().toString().contains("no tempo"));
  }

  void theFitRulerRepitchesEveryCut() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("lantern row"));
    auto* ruler = find<FitRuler>(Stage::Cut);
    ruler->setFocus();
    const auto shift = [&] { return semitonesOf(current()->shape.pitch()).value; };
    QTest::keyClick(ruler, Qt::Key_Return); // by repitching, to the beat's tempo
    QVERIFY(std::abs(shift() + 12 * std::log2(91.785 / 85)) < 0.01);
    const double best = shift();
    QTest::keyClick(ruler, Qt::Key_Up);
    const double higher = shift(); // the next whole semitone
    QVERIFY(std::abs(higher - std::round(higher)) < 1e-9 && higher > best && higher <= best + 1);
    QTest::keyClick(ruler, Qt::Key_Down);
    QVERIFY(shift() < higher);
    click(ruler, QPointF(ruler->width() / 2.0, ruler->height() / 2.0));
    const double clicked = shift();
    QVERIFY(std::abs(clicked - std::round(clicked)) < 1e-9);
    QTest::keyClick(ruler, Qt::Key_Down, Qt::ShiftModifier); // ten cents
    QVERIFY(std::abs(shift() - clicked + 0.1) < 1e-9);
    QTest::keyClick(ruler, Qt::Key_Home);
    QCOMPARE(shift(), 0.0);
  }

  void everyMethodBringsTheLoopToTheBeatInOneGesture() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("lantern row"));
    auto& stage = m_window->view(Stage::Cut);
    std::set<FitMethod> taken;
    for (auto* way : stage.findChildren<FitWay*>()) {
      if (!way->isVisible() || way->text().startsWith("Beat to")) continue;
      press(way);
      const Shape& shape = current()->shape;
      taken.insert(shape.method);
      m_services->player.waitForBakes();
      // Tempo and key meet: all sixteen slices together are four bars of the beat.
      const Score& score = *m_services->player.score();
      double beats = 0;
      for (const auto& key : project().keys) {
        const Patch& patch = score.patches[std::size_t(score.patchOf(key.id))];
        if (key.sound.source == current()->id && key.sound.cut != 0)
          beats += double((patch.end - patch.start).value) / patch.step /
                   score.tempo.framesPerBeat(kEngineRate);
      }
      QVERIFY2(std::abs(beats - 16) < 0.01, qPrintable(way->text() + QString(" %1").arg(beats)));
      QVERIFY(std::abs(semitonesOf(shape.pitch()).value + 1.335) < 0.02);
      m_services->document.undo();
    }
    QCOMPARE(int(taken.size()), 3);
    // Or the beat comes to the source.
    for (auto* way : stage.findChildren<FitWay*>())
      if (way->text().startsWith("Beat to")) press(way);
    QVERIFY(std::abs(project().tempo.value - 86.63) < 0.02);
    QVERIFY(current()->shape.semitones.value == -1 && current()->shape.cents.value == 0);
    m_services->document.undo();
    QCOMPARE(project().tempo.value, 85.0);
  }

  void cutsAreTappedAlong() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("pier nine break"));
    auto& stage = m_window->view(Stage::Cut);
    QVERIFY(m_services->auditions.placeAsItIs().value < 0);
    press(button(stage, "Tap along"));
    EVENTUALLY(m_services->auditions.placeAsItIs().value >= 0);
    int hands = 0;
    for (const auto& cut : current()->cuts) hands += cut.byHand ? 1 : 0;
    for (int i = 0; i < 4; ++i) {
      const double last = m_services->auditions.placeAsItIs().value;
      EVENTUALLY(m_services->auditions.placeAsItIs().value > last + 0.25);
      if (i % 2)
        QTest::keyClick(m_window.get(), Qt::Key_Return);
      else
        press(button(stage, "Tap"));
    }
    press(button(stage, "Done tapping"));
    QVERIFY(m_services->auditions.placeAsItIs().value < 0 &&
            m_services->auditions.heard().hash.empty());
    int now = 0;
    for (const auto& cut : current()->cuts) now += cut.byHand ? 1 : 0;
    QVERIFY2(now > hands, qPrintable(QString("%1 %2").arg(hands).arg(now)));
    m_services->document.undo(); // all of them are one step
    now = 0;
    for (const auto& cut : current()->cuts) now += cut.byHand ? 1 : 0;
    QCOMPARE(now, hands);
    QVERIFY(!button(stage, "Tap")->isVisible());
  }

  void aLoopIsChosenFromTheMenu() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("lantern row"));
    QTimer waiting; // until the menu is there
    QStringList byChord;
    QObject::connect(&waiting, &QTimer::timeout, &waiting, [&waiting, &byChord] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      if (!menu) return;
      waiting.stop();
      for (QAction* action : menu->actions())
        if (action->text() == "One bar" && action->menu()) {
          for (QAction* each : action->menu()->actions())
            if (each->menu() && each->isVisible()) byChord << each->text();
        } else if (action->text() == "2 bars" && action->menu()) {
          action->menu()->actions().first()->trigger();
        }
      menu->close();
    });
    waiting.start(5);
    press(button(m_window->view(Stage::Cut), "Find loops"));
    QVERIFY2(byChord.contains("On a minor chord") && byChord.contains("On C"),
             qPrintable(byChord.join(", ")));
    QVERIFY(!byChord.contains("On F#")); // none there
    const Cut* cut = findCut(*current(), m_services->document.selection().cut);
    QVERIFY(cut && cut->byHand);
    const double seconds = double((cut->end - cut->start).value) / current()->sound->rate().value;
    QVERIFY2(std::abs(seconds - 8 * 60 / 91.785) < 0.01, qPrintable(QString::number(seconds)));
    selectSource(*m_services, sourceNamed("quay at night"));
    QVERIFY(!button(m_window->view(Stage::Cut), "Find loops")->isEnabled()); // no bars, no loops
  }

  void aDriftingBreakIsStraightenedAndPinned() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("pier nine break"));
    auto& stage = m_window->view(Stage::Cut);
    press(button(stage, "Stretch"));
    QCOMPARE(current()->shape.method, FitMethod::Stretch);
    emit slide(stage, "Straighten")->changed(100, true);
    QCOMPARE(current()->shape.straighten, 1.0);
    QVERIFY(m_services->player.baking().wanted > 0);
    m_services->player.waitForBakes();
    QVERIFY(!m_services->player.baking().working());
    press(button(stage, "bars"));
    QCOMPARE(current()->shape.by, StraightenBy::Bars);
    press(button(stage, "Stretch as drums")); // heard as drums, said to be tones
    QVERIFY(current()->shape.material == Material::Tones);
    press(button(stage, "Keep the voice"));
    QVERIFY(current()->shape.formants);
    // Hits, by keys and by pointer.
    auto* drift = find<DriftLine>(Stage::Cut);
    drift->setFocus();
    QTest::keyClick(drift, Qt::Key_Right);
    QTest::keyClick(drift, Qt::Key_Right);
    QTest::keyClick(drift, Qt::Key_Return);
    QCOMPARE(int(current()->shape.markers.size()), 1);
    const double on = current()->shape.markers[0].beat;
    QTest::keyClick(drift, Qt::Key_Down);
    QVERIFY(current()->shape.markers[0].beat > on);
    QTest::keyClick(drift, Qt::Key_Delete);
    QVERIFY(current()->shape.markers.empty());
    auto* wave = find<WaveView>(Stage::Cut);
    const auto bars = anchorsOf(ResolvedSource(*current()), StraightenBy::Bars);
    const QPointF dot(wave->xOf(bars[3].at * current()->sound->rate().value),
                      drift->height() / 2.0);
    QTest::mouseDClick(drift, Qt::LeftButton, {}, dot.toPoint());
    QCOMPARE(int(current()->shape.markers.size()), 1);
    QTest::mousePress(drift, Qt::LeftButton, {}, dot.toPoint());
    QTest::mouseMove(drift, (dot + QPointF(0, 12)).toPoint());
    QMouseEvent move(QEvent::MouseMove, dot + QPointF(0, 12),
                     drift->mapToGlobal(dot + QPointF(0, 12)), Qt::NoButton, Qt::LeftButton,
                     Qt::NoModifier);
    QCoreApplication::sendEvent(drift, &move);
    QTest::mouseRelease(drift, Qt::LeftButton, {}, (dot + QPointF(0, 12)).toPoint());
    QCOMPARE(int(current()->shape.markers.size()), 1);
    QVERIFY(current()->shape.markers[0].beat > bars[3].target + 1e-4);
    // Saved and opened it is the same.
    const Shape kept = current()->shape;
    const QString place = QDir::tempPath() + "/shaped.tuvvo";
    saveAs(*m_services, place);
    m_services->wait();
    m_services->files.open(place);
    m_services->wait();
    QCoreApplication::processEvents();
    selectSource(*m_services, sourceNamed("pier nine break"));
    QVERIFY(current()->shape == kept);
  }

  void aSliceHasItsLevelTuneAndFades() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("pier nine break"));
    selectCut(*m_services, current()->id, current()->cuts[2].id);
    auto& stage = m_window->view(Stage::Cut);
    const auto key = [&]() -> const Key& {
      return *findKey(project(), m_services->document.selection().key);
    };
    emit slide(stage, "Level")->changed(-3.5, true);
    QCOMPARE(key().level.value, -3.5);
    emit slide(stage, "Pan")->changed(-50, true);
    QCOMPARE(key().pan, -0.5);
    emit slide(stage, "Repitch")->changed(4, true);
    QCOMPARE(key().tune.value, 4.0);
    emit slide(stage, "Fade out")->changed(12, true);
    QCOMPARE(findCut(*current(), m_services->document.selection().cut)->fadeOut.value, 12.0);
    press(button(stage, "Downbeat"));
    QVERIFY(current()->corrections.downbeat);
    const Frames start = findCut(*current(), m_services->document.selection().cut)->start;
    QCOMPARE(current()->corrections.downbeat->value,
             toSeconds(start, current()->sound->rate()).value);
  }

  void theWaveformZoomsPansAndDragsCuts() {
    m_window->showStage(Stage::Cut);
    selectSource(*m_services, sourceNamed("pier nine break"));
    auto* wave = find<WaveView>(Stage::Cut);
    settle();
    wave->showAll();
    const double all = wave->framesShown();
    QWheelEvent in(QPointF(wave->width() / 2.0, wave->height() / 2.0), QPointF(), QPoint(),
                   QPoint(0, 240), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
    QCoreApplication::sendEvent(wave, &in);
    EVENTUALLY(wave->framesShown() < all * 0.65); // it glides there
    QVERIFY(wave->framesShown() > all * 0.63);
    wave->showAll();
    QCOMPARE(wave->framesShown(), all);
    QTest::qWait(60);
    QCOMPARE(wave->framesShown(), all); // and rests
    const QImage still = wave->grab().toImage();
    wave->showSounding({{current()->cuts[2].id, 0.8f}});
    QVERIFY(wave->grab().toImage() != still); // what sounds lights up
    wave->showSounding({});
    QCOMPARE(wave->grab().toImage(), still);
    // The edge of a cut follows the pointer; the way to cut becomes by hand.
    const Cut cut = current()->cuts[4];
    const QPoint from(int(std::lround(wave->xOf(double(cut.start.value)))), wave->height() / 2);
    QTest::mousePress(wave, Qt::LeftButton, {}, from);
    QTest::mouseMove(wave, from + QPoint(9, 0));
    QTest::mouseMove(wave, from + QPoint(12, 0));
    QTest::mouseRelease(wave, Qt::LeftButton, {}, from + QPoint(12, 0));
    const Cut* moved = findCut(*current(), cut.id);
    QVERIFY(moved && moved->start.value > cut.start.value);
    m_services->document.undo(); // the whole drag is one step
    QCOMPARE(findCut(*current(), cut.id)->start.value, cut.start.value);
    QVERIFY(find<DriftLine>(Stage::Cut)->isVisible());
  }

  // ---- keys ----

  void theEnvelopeIsDraggedByItsCorners() {
    m_window->showStage(Stage::Keys);
    selectKey(*m_services, keyAt(project(), Row::Floor, 0, 0)->id);
    auto* picture = find<KeyPicture>(Stage::Keys);
    const auto envelope = [&] {
      return findKey(project(), m_services->document.selection().key)->envelope;
    };
    const Envelope before = envelope();
    // The attack's corner stands at the top left for a key without attack.
    bool dragged = false;
    for (int x = 8; x < 60 && !dragged; x += 4) {
      QTest::mousePress(picture, Qt::LeftButton, {}, QPoint(x, 12));
      QTest::mouseMove(picture, QPoint(x + 40, 60));
      QTest::mouseRelease(picture, Qt::LeftButton, {}, QPoint(x + 40, 60));
      dragged = !(envelope() == before);
    }
    QVERIFY(dragged);
    m_services->document.undo();
    QVERIFY(envelope() == before);
  }

  void aKeyHasItsNamePartAndSwitches() {
    m_window->showStage(Stage::Keys);
    selectKey(*m_services, keyAt(project(), Row::Air, 0, 0)->id);
    auto& stage = m_window->view(Stage::Keys);
    const auto key = [&]() -> const Key& {
      return *findKey(project(), m_services->document.selection().key);
    };
    auto* name = stage.findChild<QLineEdit*>();
    name->setFocus();
    name->setText("harbour hat");
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(QString::fromStdString(key().name), QString("harbour hat"));
    emit slide(stage, "Level")->changed(-6, true);
    QCOMPARE(key().level.value, -6.0);
    emit slide(stage, "Release")->changed(200, true);
    QCOMPARE(key().envelope.release.value, 200.0);
    const bool gate = key().gate;
    press(button(stage, "Held"));
    QCOMPARE(key().gate, !gate);
    const auto named = [&](const QString& wanted) {
      for (auto* each : stage.findChildren<QAbstractButton*>())
        if (each->accessibleName() == wanted) return each;
      qFatal("no chip %s", qPrintable(wanted));
    };
    press(named("Mute: Part"));
    QVERIFY(findPart(project(), key().part)->muted);
    press(named("Solo: Part"));
    QVERIFY(findPart(project(), key().part)->solo);
    press(named("Mute: Key"));
    QVERIFY(key().muteSolo.muted);
    press(named("Solo: Row"));
    QVERIFY(project().roles[std::size_t(key().row)].solo);
  }

  // ---- beat ----

  void patternsAreAddedCopiedDoubledAndRemoved() {
    m_window->showStage(Stage::Beat);
    auto& stage = m_window->view(Stage::Beat);
    const auto count = project().patterns.size();
    const PatternPtr first = findPattern(project(), m_services->document.selection().pattern);
    command(stage, "Copy the pattern");
    QCOMPARE(project().patterns.size(), count + 1);
    const PatternPtr copy = findPattern(project(), m_services->document.selection().pattern);
    QVERIFY(copy->id != first->id && copy->lanes == first->lanes);
    command(stage, "Double the pattern");
    QCOMPARE(findPattern(project(), copy->id)->bars, first->bars * 2);
    command(stage, "Remove with its sections");
    QCOMPARE(project().patterns.size(), count);
    command(stage, "New, empty");
    const PatternPtr empty = findPattern(project(), m_services->document.selection().pattern);
    for (const auto& lane : empty->lanes) QVERIFY(lane.hits.empty());
    auto* box = named<QComboBox>(stage, "Pattern");
    box->lineEdit()->setFocus();
    box->lineEdit()->selectAll();
    QTest::keyClicks(box->lineEdit(), "night shift");
    QTest::keyClick(box->lineEdit(), Qt::Key_Return);
    QCOMPARE(QString::fromStdString(findPattern(project(), empty->id)->name),
             QString("night shift"));
  }

  void feelIsSetAPart() {
    m_window->showStage(Stage::Beat);
    auto& stage = static_cast<BeatStage&>(m_window->view(Stage::Beat));
    const auto lane = [&]() -> const Lane& {
      return *findLane(*findPattern(project(), m_services->document.selection().pattern),
                       stage.ribbons().currentPart());
    };
    emit slide(stage, "Swing 16ths")->changed(58, true);
    QCOMPARE(lane().feel.swing16, 58.0);
    emit slide(stage, "Swing 8ths")->changed(62, true);
    QCOMPARE(lane().feel.swing8, 62.0);
    emit slide(*find<FeelPanel>(Stage::Beat), "Timing")->changed(-12, true);
    QCOMPARE(lane().feel.microTiming.value, -12.0);
    emit slide(stage, "Lag")->changed(96, true); // of 960 to a beat
    QCOMPARE(lane().feel.lag.value, kTicksPerBeat / 10);
    emit slide(stage, "Humanise")->changed(6, true);
    const auto seed = lane().feel.seed;
    press(button(*find<FeelPanel>(Stage::Beat), "Another"));
    QCOMPARE(lane().feel.seed, seed + 1);
    auto* accent = named<QComboBox>(stage, "Accent");
    emit accent->activated(2);
    QCOMPARE(lane().feel.accent, AccentShape::Backbeats);
    QVERIFY(lane().feel.accentDepth > 0);
    emit slide(stage, "Own length")->changed(1.5, true);
    QCOMPARE(lane().length.value, kTicksPerBeat * 3 / 2);
    // One that ships, and then one taken from the demo's break.
    auto* feels = named<QComboBox>(stage, "Feel");
    emit feels->activated(feels->findText("Ferry late"));
    QCOMPARE(QString::fromStdString(findGroove(project(), lane().feel.groove)->name),
             QString("Ferry late"));
    emit feels->activated(feels->findText("take from pier nine break"));
    QCOMPARE(QString::fromStdString(findGroove(project(), lane().feel.groove)->from),
             QString("pier nine break"));
    emit slide(stage, "Its timing")->changed(50, true);
    QCOMPARE(lane().feel.grooveTiming, 0.5);
    const auto part = [&] { return *findPart(project(), stage.ribbons().currentPart()); };
    emit slide(stage, "Quantise")->changed(60, true);
    QCOMPARE(lane().feel.quantiseStrength, 0.6);
    press(button(stage, "Quantise takes"));
    QCOMPARE(part().quantiseStrength, 0.6);
    press(button(stage, "Quantise takes"));
    QCOMPARE(part().quantiseStrength, 0.0);
  }

  void patternsTurnByThePageKeys() {
    m_window->showStage(Stage::Beat);
    QVERIFY(project().patterns.size() >= 2);
    selectPattern(*m_services, project().patterns[0]->id);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_PageDown);
    QCOMPARE(m_services->document.selection().pattern, project().patterns[1]->id);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_PageUp);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_PageUp); // none before the first
    QCOMPARE(m_services->document.selection().pattern, project().patterns[0]->id);
  }

  // ---- song ----

  void theSectionThatSoundsLightsUp() {
    m_window->showStage(Stage::Song);
    settle();
    auto* song = find<SongView>(Stage::Song);
    // Two places of the first card, which the playhead cannot stand on at once.
    const auto at = [&](int x) { return song->grab().toImage().pixel(x, song->height() - 6); };
    const QRgb first = at(110), second = at(130);
    m_services->transport.setPlays(Plays::Song);
    m_services->transport.play();
    EVENTUALLY(at(110) != first && at(130) != second);
    m_window->showStage(Stage::Crate); // it stops while nobody sees it
    m_services->transport.stop();
    m_window->showStage(Stage::Song);
    EVENTUALLY(at(110) == first && at(130) == second);
  }

  void aPartsLineRestsAndPlaysByAClick() {
    m_window->showStage(Stage::Song);
    auto* song = find<SongView>(Stage::Song);
    song->grab();
    const auto rests = [&] {
      std::size_t n = 0;
      for (const auto& section : project().sections) n += section.mutedParts.size();
      return n;
    };
    const auto before = rests();
    bool changed = false;
    for (int y = 100; y < song->height() && !changed; y += 6) {
      click(song, QPointF(song->width() - 30, y));
      changed = rests() != before;
    }
    QVERIFY(changed);
    QCOMPARE(m_services->document.selection().section, project().sections.back().id);
    m_services->document.undo();
    QCOMPARE(rests(), before);
  }

  void sectionsAreNamedSizedAndMoved() {
    m_window->showStage(Stage::Song);
    auto& stage = m_window->view(Stage::Song);
    selectSection(*m_services, project().sections[1].id);
    const Id chosen = project().sections[1].id;
    auto* name = stage.findChild<QLineEdit*>();
    name->setFocus();
    name->setText("gangway");
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(QString::fromStdString(findSection(project(), chosen)->name), QString("gangway"));
    emit slide(stage, "Bars of the section")->changed(6, true);
    QCOMPARE(findSection(project(), chosen)->bars, 6);
    press(button(stage, "Earlier"));
    QCOMPARE(project().sections[0].id, chosen);
    press(button(stage, "Later"));
    QCOMPARE(project().sections[1].id, chosen);
    const auto count = project().sections.size();
    press(button(stage, "Add section"));
    QCOMPARE(project().sections.size(), count + 1);
    QCOMPARE(project().sections[2].id, m_services->document.selection().section);
    press(button(stage, "Remove"));
    QCOMPARE(project().sections.size(), count);
  }

  void theSongPlaysFromASection() {
    m_window->showStage(Stage::Song);
    selectSection(*m_services, project().sections[2].id);
    press(button(m_window->view(Stage::Song), "Play from here"));
    QVERIFY(m_services->transport.playing());
    QCOMPARE(m_services->transport.plays(), Plays::Song);
    double start = 0;
    for (const auto& placed : timelineOf(project()).sections)
      if (placed.section == project().sections[2].id) start = inBeats(placed.start);
    EVENTUALLY(m_services->transport.positionBeats() >= start &&
               m_services->transport.positionBeats() < start + 8);
    m_services->transport.stop();
  }

  // ---- print ----

  void thePrintRequestSaysWhatTheControlsSay() {
    m_window->showStage(Stage::Print);
    auto& stage = static_cast<PrintStage&>(m_window->view(Stage::Print));
    QVERIFY(QString::fromStdString(stage.request().file.path.string()).contains("BPM"));
    const auto boxes = stage.findChildren<QComboBox*>();
    QCOMPARE(boxes.size(), 2);
    QSet<int> kinds;
    for (int i = 0; i < boxes[0]->count(); ++i) {
      boxes[0]->setCurrentIndex(i);
      emit boxes[0]->activated(i);
      const auto request = stage.request();
      kinds.insert(int(request.file.format) * 10 + int(request.file.samples));
      QCOMPARE(stage.findChild<QLineEdit*>()->text().section('.', -1),
               QString::fromStdString(request.file.path.extension().string()).mid(1));
    }
    QCOMPARE(int(kinds.size()), boxes[0]->count());
    boxes[1]->setCurrentIndex(0);
    const double low = stage.request().file.rate.value;
    boxes[1]->setCurrentIndex(1);
    QVERIFY(stage.request().file.rate.value != low);
    press(button(stage, "Stems too"));
    QVERIFY(stage.request().stems);
    press(button(stage, "MIDI too"));
    QVERIFY(stage.request().midi);
    emit slide(stage, "Ring after the end")->changed(2, true);
    slide(stage, "Ring after the end")->setValue(2);
    QCOMPARE(stage.request().options.ring.value, 2.0);
    // A name that was typed stays, whatever else changes.
    auto* path = stage.findChild<QLineEdit*>();
    path->setFocus();
    path->selectAll();
    QTest::keyClicks(path, m_dir.path() + "/mine.wav");
    Project next = project();
    next.tempo = Bpm(80);
    m_services->document.edit("tempo", next);
    QVERIFY(path->text().contains("mine"));
  }

  void printingFromTheStageWritesTheFile() {
    m_window->showStage(Stage::Print);
    auto& stage = static_cast<PrintStage&>(m_window->view(Stage::Print));
    Project brief = project();
    brief.sections.resize(1);
    brief.sections[0].bars = 1;
    m_services->document.edit("one bar", brief);
    auto* path = stage.findChild<QLineEdit*>();
    path->setFocus();
    path->selectAll();
    QTest::keyClicks(path, m_dir.path() + "/one bar.wav");
    QTest::keyClick(path, Qt::Key_Return);
    press(button(stage, "MIDI too"));
    press(button(stage, "Print"));
    settle();
    QVERIFY(QFileInfo(m_dir.path() + "/one bar.wav").size() > 100000);
    QVERIFY(QFileInfo(m_dir.path() + "/one bar.mid").size() > 100);
  }

  void partsShowTheirSpectra() {
    m_window->showStage(Stage::Print);
    EVENTUALLY(!m_services->meter.measure().spectra.empty());
    auto* strips = find<PartStrips>(Stage::Print);
    int colours = 0;
    for (Row row : {Row::Air, Row::Body, Row::Cuts, Row::Floor})
      colours +=
          pixelsOf(strips, theme::mixed(theme::ofRow(row), theme::colours().panel, 0.62)) > 50 ? 1
                                                                                               : 0;
    QVERIFY2(colours >= 3, qPrintable(QString::number(colours)));
  }
};

QTEST_MAIN(TestStages)
#include "tst_stages.moc"
