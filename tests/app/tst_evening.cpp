// A whole evening at the cutting bench, through the window: cut, line up, re-time, re-tune, treat,
// match, bounce, save, open again and change what was made.
#include "app/demo_window.h"
#include "audio/decode.h"
#include "choose.h"
#include "cut/level_panel.h"
#include "cut/out_panel.h"
#include "cut/slice_panel.h"
#include "cut/straighten_row.h"
#include "cut/treat_panel.h"
#include "parts/order_strip.h"
#include "patience.h"
#include "play/bounce.h"
#include "widgets/button.h"
#include "widgets/control_row.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestEvening : public QObject, DemoWindow {
  Q_OBJECT

private slots:
  void initTestCase() { prepare(); }
  void init() {
    QVERIFY(openDemo());
    m_window->showStage(Stage::Cut);
  }
  void cleanup() { closeDemo(); }

  void severalSlicesAreSetAtOnceAndSettingsAreCopied() {
    choose("pier nine break", 2);
    m_services->document.select(
        withCutsUpTo(selection(*m_services), project(), current()->cuts[5].id));
    QCOMPARE(int(chosenKeys(*m_services).size()), 4);
    std::vector<double> pans;
    for (Id id : chosenKeys(*m_services)) pans.push_back(findKey(project(), id)->pan);
    emit slide(slicePanel(), "Pan")->changed(-40, true);
    for (Id id : chosenKeys(*m_services)) QCOMPARE(findKey(project(), id)->pan, -0.4);
    m_services->document.undo();
    for (std::size_t i = 0; i < 4; ++i)
      QCOMPARE(findKey(project(), chosenKeys(*m_services)[i])->pan, pans[i]);
    m_services->document.redo();
    emit slide(slicePanel(), "High-pass")->changed(300, true);
    command("Copy the slice's settings");
    choose("pier nine break", 8);
    m_services->document.select(
        withCutToggled(selection(*m_services), project(), current()->cuts[9].id));
    command("Lay the settings on the chosen slices");
    for (Id id : chosenKeys(*m_services)) {
      QCOMPARE(findKey(project(), id)->pan, -0.4);
      QCOMPARE(findKey(project(), id)->highPass.value, 300.0);
    }
    QTest::keyClick(find<WaveView>(Stage::Cut), Qt::Key_A, Qt::ControlModifier);
    QCOMPARE(chosenKeys(*m_services).size(), current()->cuts.size());
  }

  void aNameMakesItselfUntilOneIsTyped() {
    choose("pier nine break", 0);
    auto* name = slicePanel().findChild<QLineEdit*>();
    const QString made = name->text();
    QVERIFY2(made.startsWith("1.1"), qPrintable(made));
    command("Name the slice");
    name->setText("first knock");
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(QString::fromStdString(nameOf(project(), chosenKey())), QString("first knock"));
    // Cut otherwise, it keeps its name at its place.
    const Id key = chosenKey().id;
    press(button(m_window->view(Stage::Cut), "Beats"));
    QCOMPARE(QString::fromStdString(findKey(project(), key)->name), QString("first knock"));
    choose("pier nine break", 0);
    name->setText(QString());
    emit name->editingFinished();
    QCOMPARE(name->text(), made);
  }

  void aSliceGoesToAnotherRowWithItsHits() {
    choose("lantern row", 1);
    const Id id = chosenKey().id, pattern = m_services->document.selection().pattern;
    const auto hits = [&] {
      int n = 0;
      for (const auto& p : project().patterns)
        for (const auto& lane : p->lanes)
          for (const auto& hit : lane.hits) n += hit.key == id;
      return n;
    };
    const int before = hits();
    slicePanel().showPanel(SlicePanel::Page::Playing);
    auto* row = combo("Row of the deck");
    row->setCurrentIndex(int(Row::Floor));
    emit row->activated(int(Row::Floor));
    QCOMPARE(findKey(project(), id)->row, Row::Floor);
    QCOMPARE(hits(), before);
    QVERIFY(findPattern(project(), pattern));
    auto* method = combo("Method of the slice");
    emit method->activated(2);
    QCOMPARE(*findKey(project(), id)->method, FitMethod::Stretch);
    m_services->player.waitForBakes();
    QCOMPARE(m_services->player.baking().ready, m_services->player.baking().wanted);
  }

  void levelsAreMatchedAndTheFiguresSaySo() {
    selectSource(*m_services, sourceNamed("pier nine break"));
    slicePanel().showPanel(SlicePanel::Page::Levels);
    auto* panel = slicePanel().findChild<LevelPanel*>();
    LoudnessCache cache;
    const auto keys = slicesOf(project(), current()->id);
    const double before = levelSpread(project(), keys, LevelBy::Whole, cache).lu;
    press(button(*panel, "Match to the middle"));
    const double after = levelSpread(project(), keys, LevelBy::Whole, cache).lu;
    QVERIFY(after < before);
    const auto* said = panel->findChild<Label*>();
    QVERIFY2(said->text().contains(QString("before %1 LU").arg(before, 0, 'f', 1)) &&
                 said->text().contains(QString("%1 LU apart").arg(after, 0, 'f', 1)),
             qPrintable(said->text()));
    press(button(*panel, QString::fromUtf8("Peaks to −1 dB")));
    for (const auto& level : levelsOf(project(), keys, LevelBy::Whole, cache))
      QVERIFY(level.peak < -0.99 &&
              (level.peak > -1.01 || findKey(project(), level.key)->level.value > 11.99));
  }

  void treatmentsAreOpenedAgainAfterSaveAndReopen() {
    choose("pier nine break", 4);
    slicePanel().showPanel(SlicePanel::Page::Treat);
    auto* panel = slicePanel().findChild<TreatPanel*>();
    // Every one of them, in a row, each baked without trouble.
    for (const TreatmentType& type : treatmentTypes()) panel->add(type);
    QCOMPARE(chosenKey().treatments.size(), treatmentTypes().size());
    m_services->player.waitForBakes();
    QVERIFY2(m_services->player.baking().trouble.empty(),
             m_services->player.baking().trouble.c_str());
    const Id key = chosenKey().id;
    QVERIFY(patchOf(key).sound != current()->sound);
    // Dropped again but for two; figures set.
    m_services->document.undo();
    while (chosenKey().treatments.size() > 0) m_services->document.undo();
    panel->add(typeOf({treat::Stutter{}}));
    emit figure(*panel, "times")->changed(6, true);
    panel->add(typeOf({treat::Fade{}}));
    m_services->player.waitForBakes();
    const SoundPtr sound = patchOf(key).sound;
    const QString folder = m_dir.filePath("evening.tuvvo");
    QVERIFY(saveAs(*m_services, folder));
    settle();
    m_services->files.open(folder);
    settle();
    const Key& again = *findKey(project(), key);
    QCOMPARE(again.treatments.size(), std::size_t(2));
    QCOMPARE(again.treatments[0].as<treat::Stutter>()->count, 6);
    m_services->player.waitForBakes();
    // Rebuilt from its recipe: the same samples.
    QCOMPARE(QString::fromStdString(patchOf(key).sound->hash()),
             QString::fromStdString(sound->hash()));
    // And changed.
    selectKey(*m_services, key);
    press(standing(*panel, "1 Stutter"));
    emit figure(*panel, "times")->changed(3, true);
    m_services->player.waitForBakes();
    QVERIFY(patchOf(key).sound->hash() != sound->hash());
    press(standing(*panel, "On"));
    QVERIFY(!findKey(project(), key)->treatments[0].on);
    press(standing(*panel, "2 Fade"));
    press(standing(*panel, "Earlier"));
    QVERIFY(findKey(project(), key)->treatments[0].is<treat::Fade>());
    press(standing(*panel, "Remove"));
    QCOMPARE(findKey(project(), key)->treatments.size(), std::size_t(1));
  }

  void aWholeSourceBecomesANewOneWhoseRecipeStaysOpen() {
    selectSource(*m_services, sourceNamed("pier nine break"));
    const SoundPtr whole = current()->sound;
    slicePanel().showPanel(SlicePanel::Page::Treat);
    auto* panel = slicePanel().findChild<TreatPanel*>();
    panel->add(typeOf({treat::Band{}}));
    settle();
    QVERIFY(current()->recipe);
    QVERIFY(QString::fromStdString(current()->name).startsWith("pier nine break, Band"));
    QCOMPARE(current()->recipe->as.treatments.size(), std::size_t(1));
    QVERIFY(current()->heard);
    QVERIFY(std::abs(current()->sound->duration().value - whole->duration().value) < 0.001);
    const Id id = current()->id;
    QCOMPARE(originsOf(project(), id).front().source, sourceNamed("pier nine break"));
    const QString folder = m_dir.filePath("made.tuvvo");
    QVERIFY(saveAs(*m_services, folder));
    settle();
    m_services->files.open(folder);
    settle();
    selectSource(*m_services, id);
    QVERIFY(current()->recipe);
    const std::string before = current()->hash;
    emit figure(*panel, "low to")->changed(400, true);
    settle();
    QVERIFY(current()->hash != before);
    QCOMPARE(current()->recipe->as.treatments[0].as<treat::Band>()->low.value, 400.0);
    m_services->document.undo();
    QCOMPARE(current()->hash, before);
  }

  void aBouncedSliceSoundsAsItDid() {
    choose("pier nine break", 3);
    emit slide(slicePanel(), "Repitch")->changed(5, true);
    emit slide(slicePanel(), "Level")->changed(-6, true);
    command("Reverse the slice");
    m_services->player.waitForBakes();
    const Key before = chosenKey();
    const QString name = QString::fromStdString(nameOf(project(), before));
    const Recipe made = *recipeOf(project(), before);
    JobContext job;
    const auto expected = bounce(project().sources, made, job);
    QVERIFY(expected.ok());
    command("Bounce in place");
    settle();
    const Key& after = *findKey(project(), before.id);
    QCOMPARE(after.level.value, 0.0);
    QCOMPARE(after.treatments.size(), std::size_t(0));
    const Source* source = findSource(project(), after.sound.source);
    QVERIFY(source->recipe);
    QCOMPARE(QString::fromStdString(source->hash), QString::fromStdString((*expected)->hash()));
    QCOMPARE(QString::fromStdString(nameOf(project(), after)), name);
    m_services->document.undo();
    QCOMPARE(findKey(project(), before.id)->level.value, -6.0);
  }

  void slicesAreHeardInTimeAgainstTheMetronome() {
    selectSource(*m_services, sourceNamed("pier nine break"));
    const auto source = m_services->document.selection().source;
    m_services->document.edit("by hand", withSourceChanged(project(), source, [](Source& s) {
                                s.shape.method = FitMethod::Stretch;
                                s.shape.straighten = 1;
                              }));
    auto* row = find<StraightenRow>(Stage::Cut);
    const auto patterns = project().patterns.size();
    press(button(*row, "Count-in bar")); // a wish: nothing is laid out by it
    QCOMPARE(project().patterns.size(), patterns);
    press(button(*row, "Hear in time"));
    QVERIFY(m_services->transport.playing() && m_services->transport.metronome());
    m_services->transport.stop();
    const PatternPtr laid = findPattern(project(), m_services->document.selection().pattern);
    QVERIFY(QString::fromStdString(laid->name) == "pier nine break in order");
    double first = 1e9;
    for (const auto& lane : laid->lanes)
      for (const auto& hit : lane.hits) first = std::min(first, inBeats(hit.at));
    QVERIFY2(std::abs(first - quartersOf(project().meter)) < 0.06,
             qPrintable(QString::number(first)));
    press(button(*row, "Count-in bar")); // now it is looked at, and follows
    const auto& lanes = findPattern(project(), laid->id)->lanes;
    double again = 1e9;
    for (const auto& lane : lanes)
      for (const auto& hit : lane.hits) again = std::min(again, inBeats(hit.at));
    QVERIFY(std::abs(again) < 0.06);
  }

  void whatStandsBeforeTheDownbeatIsSetAsideAndComesBack() {
    selectSource(*m_services, sourceNamed("pier nine break"));
    const Id source = current()->id;
    press(button(m_window->view(Stage::Cut), "Equal"));
    const std::size_t all = current()->cuts.size();
    m_services->document.edit("move", withSourceChanged(project(), source, [](Source& s) {
                                s.corrections.downbeat = Seconds(s.sound->duration().value / 2);
                              }));
    press(button(m_window->view(Stage::Cut), "From bar 1"));
    QVERIFY(current()->cuts.size() <= all / 2 + 1);
    QCOMPARE(current()->cuts.front().start.value,
             toFrames(*current()->corrections.downbeat, current()->sound->rate()).value);
    press(button(m_window->view(Stage::Cut), "From bar 1"));
    QCOMPARE(current()->cuts.size(), all);
  }

  void slicesAreWrittenForOtherPrograms() {
    selectSource(*m_services, sourceNamed("lantern row"));
    auto* panel = slicePanel().findChild<OutPanel*>();
    const QString folder = m_dir.filePath("slices");
    panel->writeTo(folder);
    settle();
    const QStringList waves = QDir(folder).entryList({"*.wav"});
    QCOMPARE(std::size_t(waves.size()), current()->cuts.size() + 1);
    QVERIFY2(waves[0].contains("85bpm"), qPrintable(waves[0])); // the beat's: as they sound
    QCOMPARE(int(QDir(folder).entryList({"*.sfz"}).size()), 1);
    // By its key: where nothing is cut it says so, and asks for no folder.
    QSignalSpy told(m_services.get(), &Services::message);
    const Id source = current()->id;
    m_services->document.edit("uncut", withCuts(project(), source, {}, {}));
    QTest::keyClick(find<WaveView>(Stage::Cut), Qt::Key_X, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(!told.empty() && told.last()[0].toString().contains("no slices to write"));
    m_services->document.undo();
    // A folder that cannot be: a message, and nothing is lost.
    QSignalSpy said(m_services.get(), &Services::message);
    panel->writeTo("/proc/nowhere");
    settle();
    QVERIFY(!said.empty() && said.last()[1].toBool());
  }

  void theBenchIsPlayedByKeysAlone() {
    choose("pier nine break", 3);
    auto* wave = find<WaveView>(Stage::Cut);
    wave->setFocus();
    const auto key = [&](Qt::Key k,
                         Qt::KeyboardModifiers with = Qt::ControlModifier | Qt::ShiftModifier) {
      QTest::keyClick(wave, k, with);
      QCoreApplication::processEvents();
    };
    key(Qt::Key_R);
    QCOMPARE(chosenKey().treatments.size(), std::size_t(1));
    key(Qt::Key_R);
    QVERIFY(chosenKey().treatments.empty());
    const Id before = m_services->document.selection().cut;
    key(Qt::Key_Right, Qt::NoModifier);
    QVERIFY(m_services->document.selection().cut != before);
    key(Qt::Key_E);
    QVERIFY(qobject_cast<QLineEdit*>(QApplication::focusWidget()));
    QTest::keyClicks(QApplication::focusWidget(), "wet plank");
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    QCOMPARE(QString::fromStdString(chosenKey().name), QString("wet plank"));
    wave->setFocus();
    key(Qt::Key_C);
    key(Qt::Key_A, Qt::ControlModifier);
    QVERIFY(chosenKeys(*m_services).size() > 10);
    key(Qt::Key_G);
    LoudnessCache cache;
    QVERIFY(levelSpread(project(), chosenKeys(*m_services), LevelBy::Whole, cache).lu < 20);
    // What needs a slice says so where there is none.
    selectSource(*m_services, sourceNamed("pier nine break"));
    QSignalSpy said(m_services.get(), &Services::message);
    key(Qt::Key_R);
    QVERIFY(!said.empty() && said.last()[1].toBool());
    QVERIFY(said.last()[0].toString().contains("Choose a slice first"));
  }

  void aLowWindowShowsOnePanelAtATime() {
    choose("pier nine break", 3);
    Services& s = *m_services;
    Panel root;
    showDocument(s, root);
    CutStage stage(
        root,
        {s.peaks, s.notes.loudness(), s.player, s.transport, s.auditions, s.sources, s.printing},
        nullptr); // on its own: no layout gives it back its height
    stage.show();
    auto* row = stage.findChild<StraightenRow*>();
    const auto shown = [&](int height) {
      stage.resize(900, height);
      QCoreApplication::processEvents();
      return std::pair(row->isVisibleTo(&stage), stage.slice().isVisibleTo(&stage));
    };
    QVERIFY((shown(700) == std::pair(true, true)));
    QVERIFY((shown(450) == std::pair(false, true)));
    press(button(stage, "Drift"));
    QVERIFY((shown(450) == std::pair(true, false)));
    QVERIFY((shown(380) == std::pair(true, false)));
    press(button(stage, "Ways"));
    QVERIFY((shown(380) == std::pair(false, false)));
    QVERIFY(button(stage, "Hits")->isVisibleTo(&stage));
    QVERIFY((shown(450) == std::pair(false, true))); // the ways have their own place again
    QVERIFY(button(stage, "Hits")->isVisibleTo(&stage));
  }

  void aRecipeWhoseSourceIsGoneStaysClosedAndSaysSo() {
    const Id parent = sourceNamed("pier nine break");
    selectSource(*m_services, parent);
    slicePanel().showPanel(SlicePanel::Page::Treat);
    auto* panel = slicePanel().findChild<TreatPanel*>();
    panel->add(typeOf({treat::Isolate{}}));
    settle();
    const Id made = current()->id;
    const std::string hash = current()->hash;
    m_services->document.edit("remove", withoutSource(project(), parent));
    selectSource(*m_services, made);
    QSignalSpy said(m_services.get(), &Services::message);
    emit figure(*panel, "the rest")->changed(-12, true);
    settle();
    QVERIFY(!said.empty() && said.last()[1].toBool());
    QVERIFY(said.last()[0].toString().contains("no longer in the beat"));
    QCOMPARE(current()->hash, hash); // and its sound is kept
  }

  void nothingIsOutOfReachInALowWindow() {
    choose("lantern row", 3);
    slicePanel().showPanel(SlicePanel::Page::Treat);
    auto* panel = slicePanel().findChild<TreatPanel*>();
    for (const char* id : {"octave", "isolate", "swell", "fade", "stutter"})
      panel->add(*treatmentType(id));
    m_window->resize(1024, 600);
    QCoreApplication::processEvents();
    auto* more = panel->findChild<ControlRow*>()->more();
    const QAbstractButton* remove = standing(*panel, "Remove");
    QVERIFY(more->isVisible() && !remove->isVisible()); // there is no room for it
    more->setFocus(Qt::TabFocusReason);
    QTest::keyClick(more, Qt::Key_Return);
    QVERIFY(remove->isVisible() && !remove->visibleRegion().isEmpty());
    QWidget* first = QApplication::focusWidget(); // what lies there has the keys now
    QVERIFY(first != more && remove->parentWidget()->isAncestorOf(first));
    QTest::keyClick(first, Qt::Key_Escape);
    QVERIFY(!remove->isVisible());
    QCOMPARE(QApplication::focusWidget(), static_cast<QWidget*>(more));
  }

  void piecesAreReorderedByHand() {
    choose("lantern row", 3);
    slicePanel().showPanel(SlicePanel::Page::Treat);
    slicePanel().findChild<TreatPanel*>()->add(typeOf({treat::Chop{}}));
    emit figure(slicePanel(), "each")->changed(0.125, true);
    auto strip = [&] {
      QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
      return slicePanel().findChild<OrderStrip*>();
    };
    // A beat's slice in eighths of a beat, shuffled by the seed; shown as it is heard.
    const auto shuffled = strip()->order();
    const Treatment chopped = chosenKey().treatments.front();
    QVERIFY(chopped.as<treat::Chop>()->order.empty());
    QVERIFY(shuffled.size() == 8 || shuffled.size() == 9); // a few frames may be left over
    auto sorted = shuffled;
    std::sort(sorted.begin(), sorted.end());
    for (std::size_t i = 0; i < sorted.size(); ++i) QCOMPARE(sorted[i], int(i));
    QVERIFY(sorted != shuffled);
    // What is shown is what is made: said by hand, the same samples.
    m_services->player.waitForBakes();
    const SoundPtr bySeed = patchOf(chosenKey().id).sound;
    const auto said = [&](std::vector<int> order) {
      m_services->document.edit("order", withKeyChanged(project(), chosenKey().id, [&](Key& k) {
                                  k.treatments[0].as<treat::Chop>()->order = std::move(order);
                                }));
      m_services->player.waitForBakes();
      return patchOf(chosenKey().id).sound->hash();
    };
    QCOMPARE(said(shuffled), bySeed->hash());
    m_services->document.undo();
    // By pointer: the first behind the third.
    const std::size_t cuts = current()->cuts.size();
    OrderStrip* row = strip();
    row->resize(row->sizeHint());
    const auto drag = [&](QPoint from, QPoint to) {
      QTest::mousePress(row, Qt::LeftButton, {}, from);
      QTest::mouseMove(row, to);
      QTest::mouseRelease(row, Qt::LeftButton, {}, to);
      row = strip();
      row->resize(row->sizeHint());
    };
    auto expected = shuffled;
    std::rotate(expected.begin(), expected.begin() + 1, expected.begin() + 3);
    drag(row->middleOf(0), row->middleOf(2) + QPoint(6, 0));
    QCOMPARE(chosenKey().treatments[0].as<treat::Chop>()->order, expected);
    drag(row->middleOf(1), row->middleOf(1) + QPoint(0, 90)); // out of the row
    expected.erase(expected.begin() + 1);
    QCOMPARE(chosenKey().treatments[0].as<treat::Chop>()->order, expected);
    // By keys: the place that was chosen last, moved and doubled.
    QTest::keyClick(row, Qt::Key_Right, Qt::ControlModifier);
    std::swap(expected[1], expected[2]);
    QCOMPARE(chosenKey().treatments[0].as<treat::Chop>()->order, expected);
    QTest::keyClick(strip(), Qt::Key_Insert);
    expected.insert(expected.begin() + 2, expected[2]);
    QCOMPARE(chosenKey().treatments[0].as<treat::Chop>()->order, expected);
    QTest::keyClick(strip(), Qt::Key_Delete);
    expected.erase(expected.begin() + 2);
    QCOMPARE(chosenKey().treatments[0].as<treat::Chop>()->order, expected);
    QCOMPARE(current()->cuts.size(), cuts); // the same keys cut and remove elsewhere
    for (int i = 0; i < 3; ++i) m_services->document.undo();
    QCOMPARE(int(chosenKey().treatments[0].as<treat::Chop>()->order.size()), int(expected.size()));
    // Another seed begins anew.
    emit figure(slicePanel(), "seed")->changed(7, true);
    QVERIFY(chosenKey().treatments[0].as<treat::Chop>()->order.empty());
    QVERIFY(strip()->order() != shuffled);
  }

  void lineageTellsOfTreatmentsAndOfWhatItWasMadeOf() {
    choose("pier nine break", 3);
    m_services->document.edit("treat", withKeyChanged(project(), chosenKey().id, [](Key& k) {
                                k.treatments = {Treatment{treat::Stutter{}}};
                              }));
    const Id key = chosenKey().id;
    QVERIFY(
        lineageOf(project(), *findKey(project(), key)).join('\n').contains("Stutter: 1/4 beat"));
    command("Bounce in place");
    settle();
    const QString lineage = lineageOf(project(), *findKey(project(), key)).join('\n');
    QVERIFY2(lineage.contains("Made of: pier nine break") && lineage.contains("Stutter"),
             qPrintable(lineage));
  }

  void bakingIsStoppedAndTakenUpAgain() {
    selectSource(*m_services, sourceNamed("lantern row"));
    const Id source = current()->id;
    m_services->document.edit("stretch", withSourceChanged(project(), source, [](Source& s) {
                                s.shape.method = FitMethod::Stretch;
                                s.shape.semitones = Semitones(3);
                              }));
    m_services->player.stopBaking();
    QVERIFY(!m_services->player.baking().working());
    const int stopped = m_services->player.baking().stopped;
    QVERIFY(stopped > 0);
    auto* row = find<StraightenRow>(Stage::Cut);
    press(button(*row, "Bake"));
    m_services->player.waitForBakes();
    QCOMPARE(m_services->player.baking().stopped, 0);
    QCOMPARE(m_services->player.baking().ready, m_services->player.baking().wanted);
  }

private:
  /// A slide of the open treatment: those of the ones before are gone by then.
  Slide* figure(const QWidget& in, const QString& name) {
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    return slide(in, name);
  }
  QAbstractButton* standing(const QWidget& in, const QString& text) {
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    return button(in, text);
  }
  SlicePanel& slicePanel() { return static_cast<CutStage&>(m_window->view(Stage::Cut)).slice(); }
  QComboBox* combo(const QString& name) {
    for (auto* each : slicePanel().findChildren<QComboBox*>())
      if (each->accessibleName() == name) return each;
    qFatal("no combo %s", qPrintable(name));
  }
  void choose(const char* source, std::size_t cut) {
    selectSource(*m_services, sourceNamed(source));
    selectCut(*m_services, current()->id, current()->cuts[cut].id);
  }
  const Key& chosenKey() {
    for (const auto& key : project().keys)
      if (key.sound ==
          SoundRef{m_services->document.selection().source, m_services->document.selection().cut})
        return key;
    qFatal("no key");
  }
  const Patch& patchOf(Id key) {
    return m_services->player.score()
        ->patches[std::size_t(m_services->player.score()->patchOf(key))];
  }
  void command(const QString& text) {
    for (QAction* action : m_window->view(Stage::Cut).actions())
      if (action->text() == text) return action->trigger();
    qFatal("no command %s", qPrintable(text));
  }
};

QTEST_MAIN(TestEvening)
#include "tst_evening.moc"
