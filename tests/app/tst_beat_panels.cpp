// What is worked out from sounds on the Beat stage of the real window: a break read and corrected,
// rebuilt, followed; a bass under the chords; the last bar; the low end; and the whole way from a
// break to a beat.
#include "app/demo_window.h"
#include "beat/break_panel.h"
#include "beat/break_view.h"
#include "beat/free_space_panel.h"
#include "beat/hit_choice.h"
#include "beat/similarity.h"
#include "choose.h"
#include "patience.h"
#include "play/print.h"
#include "tones/theory.h"

#include <QClipboard>
#include <QElapsedTimer>

using namespace tuvvo;
using namespace tuvvo::test;

class TestBeatPanels : public QObject, DemoWindow {
  Q_OBJECT

  BeatStage& stage() { return static_cast<BeatStage&>(m_window->view(Stage::Beat)); }
  RibbonsView& ribbons() { return stage().ribbons(); }
  HitChoice& choice() { return stage().choice(); }
  BreakView& breakView() { return stage().breakPanel().view(); }
  PatternPtr pattern() { return findPattern(project(), m_services->document.selection().pattern); }
  Id keyNamed(const std::string& name) {
    for (const auto& key : project().keys)
      if (nameOf(project(), key) == name) return key.id;
    qFatal("no key %s", name.c_str());
  }
  Id partOf(const std::string& key) { return findKey(project(), keyNamed(key))->part; }
  void key(QWidget& widget, Qt::Key which, Qt::KeyboardModifiers with = {}) {
    QTest::keyClick(&widget, which, with);
    QCoreApplication::processEvents();
  }
  QString said() const { return m_said.value(m_said.size() - 1); }
  BreakReading reading() {
    return *readBreak(*findSource(project(), sourceNamed("pier nine break")));
  }
  std::size_t countOf(HitClass hit) {
    const auto read = reading();
    return std::size_t(std::count_if(read.hits.begin(), read.hits.end(),
                                     [hit](const ReadHit& each) { return each.hit == hit; }));
  }
  /// A hit is dragged to another row with the mouse.
  void drag(const ReadHit& hit, HitClass to) {
    const QPoint from = breakView().placeOf(hit).toPoint();
    const QPoint until(from.x(), int(breakView().rowOf(to).center().y()));
    QTest::mousePress(&breakView(), Qt::LeftButton, {}, from);
    QTest::mouseMove(&breakView(), until);
    QTest::mouseRelease(&breakView(), Qt::LeftButton, {}, until);
    QCoreApplication::processEvents();
  }
  SoundPtr printed() {
    m_services->player.waitForBakes();
    JobContext job;
    return *print(compilePattern(project(), pattern()->id), {}, job);
  }
  QStringList m_said;

private slots:
  void initTestCase() { prepare(); }
  void init() {
    QVERIFY(openDemo());
    m_said.clear();
    connect(m_services.get(), &Services::message, this,
            [this](const QString& text, bool) { m_said << text; });
    m_window->showStage(Stage::Beat);
    for (const auto& each : project().patterns)
      if (each->name == "Crossing") selectPattern(*m_services, each->id);
    QCoreApplication::processEvents();
  }
  void cleanup() { closeDemo(); }

  void aHitIsCorrectedWithOneGestureAndThoseLikeItAfterIt() {
    stage().openPanel(BeatStage::Break);
    QCoreApplication::processEvents();
    const auto read = reading();
    const auto hat = std::find_if(read.hits.begin(), read.hits.end(), [](const ReadHit& hit) {
      return hit.hit == HitClass::Hat && hit.alone;
    });
    QVERIFY(hat != read.hits.end());
    const auto hats = countOf(HitClass::Hat), others = countOf(HitClass::Other);
    const auto steps = m_services->document.history().place();
    drag(*hat, HitClass::Other);
    QCOMPARE(m_services->document.history().place(), steps + 1);
    QCOMPARE(countOf(HitClass::Hat), hats - 1);
    QCOMPARE(countOf(HitClass::Other), others + 1);
    QVERIFY(breakView().chosen() && breakView().chosen()->sure);
    QAbstractButton* alike = nullptr;
    for (auto* each : stage().findChildren<QAbstractButton*>())
      if (each->isVisible() && each->text().endsWith("move them too")) alike = each;
    QVERIFY(alike);
    const auto many = alike->text().section(' ', 0, 0).toUInt();
    QVERIFY(many > 0);
    press(alike);
    QCOMPARE(countOf(HitClass::Hat), hats - 1 - many);
    m_services->document.undo();
    m_services->document.undo();
    QCOMPARE(countOf(HitClass::Hat), hats);
  }

  void unsureHitsAreFoundAndSaidRightByKeys() {
    stage().openPanel(BeatStage::Break);
    const auto unsure = [&] {
      const auto read = reading();
      return std::count_if(read.hits.begin(), read.hits.end(),
                           [](const ReadHit& hit) { return !hit.sure; });
    };
    const auto before = unsure();
    QVERIFY(before > 0);
    press(button(stage(), "Next unsure"));
    QVERIFY(breakView().chosen() && !breakView().chosen()->sure);
    breakView().setFocus();
    key(breakView(), Qt::Key_Return);
    QVERIFY(breakView().chosen()->sure);
    QVERIFY(unsure() < before);
    const Seconds at = breakView().chosen()->at;
    const HitClass was = breakView().chosen()->hit;
    key(breakView(), was == HitClass::Other ? Qt::Key_Up : Qt::Key_Down);
    QVERIFY(breakView().chosen()->hit != was);
    QCOMPARE(breakView().chosen()->at, at);
    key(breakView(), Qt::Key_Right);
    QVERIFY(breakView().chosen()->at >= at);
  }

  void aBreakIsPlayedWithKeysThatAreChosen() {
    stage().openPanel(BeatStage::Break);
    auto* snare = named<QComboBox>(stage(), "Key for snare");
    snare->setCurrentIndex(snare->findText("clap"));
    emit snare->activated(snare->currentIndex());
    press(button(stage(), "Play it with these"));
    QCOMPARE(QString::fromStdString(pattern()->name), QString("pier nine break, played"));
    QCOMPARE(findLane(*pattern(), partOf("clap"))->hits.size(), countOf(HitClass::Snare));
    QVERIFY(!findLane(*pattern(), partOf("snare")));
    // Drums of another pattern follow it.
    selectPattern(*m_services, project().patterns.front()->id);
    press(button(stage(), "Drums follow it"));
    QVERIFY(findLane(*pattern(), partOf("shaker"))->feel.groove != 0);
  }

  void theBassIsLaidAndLaidAnewUntilItIsTouched() {
    stage().openPanel(BeatStage::Tones);
    QCoreApplication::processEvents();
    QVERIFY(ribbons().isOpen(partOf("bass")));
    QVERIFY(!ribbons().chords().empty());
    press(button(stage(), "Follow the chords"));
    const auto hits = [&] { return findLane(*pattern(), partOf("bass"))->hits; };
    const auto first = hits();
    QVERIFY(!first.empty());
    const auto spans = ribbons().chords();
    for (const auto& hit : first)
      QVERIFY(hasTone(chordAt(spans, hit.at + Beats(kTicksPerBeat / 16))->chord,
                      noteOf(project(), hit)));
    const auto steps = m_services->document.history().place();
    emit slide(stage(), "Register from")->changed(40, true);
    QVERIFY(hits() != first);
    for (const auto& hit : hits()) QVERIFY(noteOf(project(), hit) >= 40);
    emit named<QComboBox>(stage(), "Bass rhythm")->activated(2); // on the ones
    QVERIFY(hits().size() != first.size());
    QVERIFY(m_services->document.history().place() <= steps + 1); // one step while figures move
    // Touched, it stays.
    choice().chooseOne(partOf("bass"), hits().front());
    choice().change("Tune a hit", [](Hit& hit) { hit.tune.value += 1; });
    const auto touched = hits();
    emit slide(stage(), "Register from")->changed(28, true);
    QVERIFY(hits() == touched);
  }

  void chordsAreWrittenMovedAndPlayed() {
    stage().openPanel(BeatStage::Tones);
    auto* name = named<QComboBox>(stage(), "Chord at the cursor");
    QVERIFY(m_services->document.project().key == keyFromName("Bm"));
    name->lineEdit()->setText("Em7");
    QTest::keyClick(name->lineEdit(), Qt::Key_Return);
    QCoreApplication::processEvents();
    QVERIFY(!pattern()->chords.empty());
    QCOMPARE(pattern()->chords.front().name, std::string("Em7"));
    press(button(stage(), "Higher"));
    QCOMPARE(pattern()->chords.front().name, std::string("F#m7"));
    press(button(stage(), "Lower"));
    press(button(stage(), "Lower"));
    QCOMPARE(pattern()->chords.front().name, std::string("Dmaj7"));
    name->lineEdit()->setText("H");
    QTest::keyClick(name->lineEdit(), Qt::Key_Return);
    QVERIFY(said().contains("is no chord"));
    // The bass's notes under it that do not belong go to its nearest tones.
    choice().chooseAll(partOf("bass"));
    press(button(stage(), "Move to the chord"));
    for (const auto& hit : findLane(*pattern(), partOf("bass"))->hits)
      QVERIFY(hasTone(chordAt(ribbons().chords(), hit.at)->chord, noteOf(project(), hit)));
    emit named<QComboBox>(stage(), "Inversion")->activated(1);
    press(button(stage(), "Play the chords"));
    QVERIFY(!findKey(project(), keyNamed("bass"))->mono); // it plays many at once now
    QVERIFY(findLane(*pattern(), partOf("bass"))->hits.size() >= 3 * pattern()->chords.size());
    press(button(stage(), "Chords as heard"));
    QVERIFY(pattern()->chords.empty());
  }

  void anOpenRibbonTakesNotesWhereTheyAreClicked() {
    stage().openPanel(BeatStage::Tones);
    QCoreApplication::processEvents();
    ribbons().setOpen(partOf("bass"), false);
    QCoreApplication::processEvents();
    command(stage(), "Open the part's pitch ribbon, or close it");
    QVERIFY(ribbons().isOpen(partOf("bass")));
    QSignalSpy sight(&ribbons(), &RibbonsView::wantsSight);
    ribbons().showPart(partOf("bass"));
    QCoreApplication::processEvents();
    QCOMPARE(sight.count(), 1);
    const QRect box = sight.first().first().toRect();
    const auto before = findLane(*pattern(), partOf("bass"))->hits.size();
    // The middle of the top row, where nothing is; then it is dragged down by rows.
    const QPoint top(int(ribbons().xOf(9.5)), box.top() + theme::px(21));
    QTest::mouseClick(&ribbons(), Qt::LeftButton, {}, top);
    QCoreApplication::processEvents();
    QCOMPARE(findLane(*pattern(), partOf("bass"))->hits.size(), before + 1);
    const int high = noteOf(project(), choice().first());
    QTest::mousePress(&ribbons(), Qt::LeftButton, {}, top);
    QTest::mouseMove(&ribbons(), top + QPoint(0, 60));
    QTest::mouseRelease(&ribbons(), Qt::LeftButton, {}, top + QPoint(0, 60));
    QCoreApplication::processEvents();
    QVERIFY(noteOf(project(), choice().first()) < high - 2);
    QTest::mouseDClick(&ribbons(), Qt::LeftButton, {}, QPoint(40, box.top() + 30)); // its name
    QVERIFY(!ribbons().isOpen(partOf("bass")));
  }

  void theLastBarIsChangedAndThrownAgain() {
    stage().openPanel(BeatStage::Change);
    const PatternPtr before = pattern();
    press(button(stage(), "Fill"));
    QVERIFY(!(*pattern() == *before));
    const PatternPtr filled = pattern();
    bool another = false;
    for (int i = 0; i < 8 && !another; ++i) {
      press(button(stage(), "Another"));
      another = !(*pattern() == *filled);
    }
    QVERIFY(another);
    m_services->document.undo(); // all throws are one step
    QVERIFY(*pattern() == *before);
    press(button(stage(), "Drop"));
    QVERIFY(!button(stage(), "Another")->isEnabled()); // there are no dice in it
    m_services->document.undo();
    const Id hat = partOf("hat");
    ribbons().showPart(hat);
    emit slide(stage(), "Bar")->changed(2, true);
    slide(stage(), "Bar")->setValue(2);
    press(button(stage(), "Rest hat"));
    for (const auto& hit : findLane(*pattern(), hat)->hits)
      QVERIFY(hit.at < wholeBeats(4) || hit.at >= wholeBeats(8));
    const auto patterns = project().patterns.size();
    press(button(stage(), "Thin for an intro"));
    QCOMPARE(project().patterns.size(), patterns + 1);
    QCOMPARE(QString::fromStdString(pattern()->name), QString("Crossing, thin"));
    QCOMPARE(pattern()->family, project().patterns[2]->family);
  }

  void theStripSaysHowAlikeBarsAre() {
    auto* strip = stage().findChild<AlikeStrip*>();
    EVENTUALLY_IS(strip->accessibleDescription().split(' ').size(), pattern()->bars);
    command(stage(), "Double the pattern");
    EVENTUALLY_IS(strip->accessibleDescription().split(' ').size(), 8);
    const QStringList letters = strip->accessibleDescription().split(' ');
    for (int i = 0; i < 4; ++i) QCOMPARE(letters[i], letters[i + 4]);
    stage().openPanel(BeatStage::Change);
    press(button(stage(), "Drop"));
    EVENTUALLY(strip->accessibleDescription().split(' ')[7] != letters[7]);
  }

  void theRoomIsMeasuredAndAnswered() {
    stage().openPanel(BeatStage::FreeSpace);
    settle();
    const Id bass = partOf("bass"), kick = partOf("kick");
    press(button(stage(), "Duck the bass under it"));
    QCOMPARE(findPart(project(), bass)->duck.by, kick);
    QVERIFY(slide(stage(), "Duck by")->value() > 0);
    emit slide(stage(), "Duck by")->changed(0, true);
    QCOMPARE(findPart(project(), bass)->duck.by, Id(0));
    QVERIFY(!slide(stage(), "Back in")->isEnabled()); // nothing ducks
    const Semitones tune = findKey(project(), keyNamed("kick"))->tune;
    const Cents fine = findKey(project(), keyNamed("kick"))->fine;
    press(button(stage(), "Tune the kick to the bass"));
    const Key& tuned = *findKey(project(), keyNamed("kick"));
    QVERIFY(tuned.tune != tune || tuned.fine != fine);
    press(button(stage(), "Shorten the kick"));
    QCOMPARE(findKey(project(), keyNamed("kick"))->envelope.sustain, 0.0);
    const auto hits = findLane(*pattern(), bass)->hits;
    press(button(stage(), "Move the bass after it"));
    QVERIFY(findLane(*pattern(), bass)->hits != hits);
    auto* roles = stage().findChild<RolesView*>();
    QVERIFY(roles->busy()[std::size_t(Row::Floor)].size() == 16);
    QVERIFY(roles->busy()[std::size_t(Row::Floor)][0] > 0);
    // A pattern without either says what is needed, and nothing can be pressed.
    command(stage(), "New pattern");
    QVERIFY(!button(stage(), "Shorten the kick")->isEnabled());
  }

  void patternsGoThroughTheClipboard() {
    const PatternPtr before = pattern();
    command(stage(), "Copy the pattern as text");
    QVERIFY(QGuiApplication::clipboard()->text().startsWith("Tuvvo pattern\nname \"Crossing\""));
    command(stage(), "Paste a pattern from text");
    QVERIFY(pattern()->id != before->id);
    QCOMPARE(pattern()->bars, before->bars);
    for (const auto& lane : before->lanes)
      if (!lane.hits.empty()) {
        QCOMPARE(findLane(*pattern(), lane.part)->hits.size(), lane.hits.size());
        QCOMPARE(findLane(*pattern(), lane.part)->feel, lane.feel);
      }
    const auto patterns = project().patterns.size();
    QGuiApplication::clipboard()->setText("a shopping list");
    command(stage(), "Paste a pattern from text");
    QVERIFY(said().contains("line 1"));
    QCOMPARE(project().patterns.size(), patterns);
  }

  /// A drum loop and a chordal loop that the beat does not know: a four-bar beat by pointer alone.
  void fromUnknownSoundsToABeat() {
    const QString sounds = QStringLiteral(TUVVO_DATA_DIR "/service/");
    m_services->files.startNew();
    m_services->sources.importFiles({sounds + "gate four.flac", sounds + "night shift.flac"});
    EVENTUALLY(project().sources.size() == 22);
    settle();
    const auto place = m_services->document.history().place();
    const ProjectPtr start = m_services->document.projectPtr();
    int gestures = 0;
    const auto pressed = [&](QAbstractButton* button) {
      press(button);
      ++gestures;
    };
    // The loop gives the tempo and the key; its beats are laid out.
    selectSource(*m_services, sourceNamed("gate four"));
    m_window->showStage(Stage::Cut);
    QWidget& cut = m_window->view(Stage::Cut);
    command(cut, "Cut by beats");
    emit slide(*m_window, "Tempo")->changed(84, true);
    command(cut, "Hear the slices in time");
    gestures += 4;
    QCOMPARE(pattern()->bars, 4);
    // The break's own hits under it, then the bass under the chords, then the last bar.
    m_window->showStage(Stage::Beat);
    stage().openPanel(BeatStage::Break);
    auto* sources = named<QComboBox>(stage(), "Break");
    sources->setCurrentIndex(sources->findText("night shift"));
    emit sources->activated(sources->currentIndex());
    gestures += 4;
    pressed(button(stage(), "Into this pattern"));
    pressed(button(stage(), "Rebuild from its own hits"));
    stage().openPanel(BeatStage::Tones);
    ++gestures;
    pressed(button(stage(), "Follow the chords"));
    stage().openPanel(BeatStage::Change);
    ++gestures;
    pressed(button(stage(), "Fill"));
    // Every one of these is seconds' work; two minutes leave eight for each.
    QVERIFY2(gestures <= 15, qPrintable(QString::number(gestures)));
    QCOMPARE(pattern()->bars, 4);
    const auto reading = readBreak(*findSource(project(), sourceNamed("night shift")));
    std::size_t kicks = 0;
    const Lane* kick = findLane(*pattern(), partOf("kick, night shift"));
    for (const auto& hit : reading->hits) kicks += hit.hit == HitClass::Kick && hit.beat < 16;
    QVERIFY(kick && std::abs(int(kick->hits.size()) - int(kicks)) <= 1);
    const auto spans = chordsOf(project(), *pattern());
    const Lane* bass = findLane(*pattern(), partOf("bass C2"));
    QVERIFY(bass && bass->hits.size() >= 4);
    const KeyName key = *keyOf(*findSource(project(), sourceNamed("gate four")));
    int inKey = 0;
    for (const auto& hit : bass->hits) {
      const int note = noteOf(project(), hit);
      inKey += inScale(key, note);
      QVERIFY(hasTone(chordAt(spans, hit.at + Beats(kTicksPerBeat / 8))->chord, note));
    }
    QCOMPARE(inKey, int(bass->hits.size()));
    QVERIFY(barSimilarity(project(), *pattern(), 2, 3) < 0.9);
    JobContext job;
    const auto print1 = print(compilePattern(project(), pattern()->id), {}, job);
    QVERIFY(print1.ok());
    while (m_services->document.history().place() > place) m_services->document.undo();
    QVERIFY(project() == *start);
  }

  /// From a break and a chordal loop to a beat whose drums are the break's own, whose bass follows
  /// the chords and whose last bar differs; every step taken back and made again.
  void fromABreakAndALoopToABeat() {
    QElapsedTimer clock;
    clock.start();
    const ProjectPtr start = m_services->document.projectPtr();
    const auto place = m_services->document.history().place();
    // Brass slices to be laid over it later.
    choice().chooseAll(findKey(project(), project().keys.front().id)->part);
    command(stage(), "Copy hits");
    // The break is read; two hits are corrected, one by the mouse, one by a key.
    command(stage(), "Read a break");
    QCoreApplication::processEvents();
    const auto read = reading();
    std::vector<ReadHit> hats;
    for (const auto& hit : read.hits)
      if (hit.hit == HitClass::Hat && hit.alone) hats.push_back(hit);
    QVERIFY(hats.size() > 4);
    drag(hats[1], HitClass::Other);
    drag(hats[3], HitClass::Hat); // dropped on its own row nothing happens
    breakView().setFocus();
    key(breakView(), Qt::Key_Down); // the chosen hat is a snare
    QCOMPARE(m_services->document.history().place(), place + 2);
    press(button(stage(), "Rebuild from its own hits"));
    QCOMPARE(QString::fromStdString(pattern()->name), QString("pier nine break, rebuilt"));
    const Id rebuilt = pattern()->id;
    // Hats of the deck over it, with the break's feel.
    const Id hatPart = partOf("hat");
    ribbons().showPart(hatPart);
    ribbons().setFocus();
    for (int e = 0; e < 8; ++e) {
      key(ribbons(), Qt::Key_Return);
      key(ribbons(), Qt::Key_Right);
      key(ribbons(), Qt::Key_Right);
    }
    QCOMPARE(findLane(*pattern(), hatPart)->hits.size(), std::size_t(8));
    command(stage(), "Feel of the part");
    auto* feel = named<QComboBox>(stage(), "Feel");
    const int take = feel->findText("take from pier nine break");
    QVERIFY(take > 0);
    emit feel->activated(take);
    QVERIFY(findLane(*pattern(), hatPart)->feel.groove != 0);
    // The brass over it, and the bass under the brass.
    while (inBeats(ribbons().cursor()) != 0) key(ribbons(), Qt::Key_Left);
    choice().paste(Beats(0));
    command(stage(), "Bass and chords");
    press(button(stage(), "Follow the chords"));
    const Lane* bass = findLane(*pattern(), partOf("bass"));
    QVERIFY(bass && !bass->hits.empty());
    int inKey = 0;
    for (const auto& hit : bass->hits) inKey += inScale(*project().key, noteOf(project(), hit));
    QVERIFY2(inKey >= int(bass->hits.size()) * 3 / 4, "the bass is mostly in the beat's key");
    const int bars = pattern()->bars;
    command(stage(), "Double the pattern");
    QCOMPARE(pattern()->bars, 2 * bars);
    command(stage(), "Change the pattern");
    press(button(stage(), "Fill"));
    const auto alike = barsAlike(project(), *pattern());
    QVERIFY(alike.back().share < 1);
    const auto midi = pathIn(m_dir, "rebuilt.mid");
    stage().writeMidi(QString::fromStdString(midi.string()));
    settle();
    QVERIFY(std::filesystem::file_size(midi) > 200);
    qInfo() << "by hands that never hesitate:" << clock.elapsed() << "ms";

    const SoundPtr first = printed();
    const ProjectPtr end = m_services->document.projectPtr();
    while (m_services->document.history().place() > place) m_services->document.undo();
    QVERIFY(project() == *start);
    while (m_services->document.projectPtr() != end) {
      const auto at = m_services->document.history().place();
      m_services->document.redo();
      QVERIFY(m_services->document.history().place() > at);
    }
    selectPattern(*m_services, rebuilt);
    QCOMPARE(printed()->hash(), first->hash());
  }
};

QTEST_MAIN(TestBeatPanels)
#include "tst_beat_panels.moc"
