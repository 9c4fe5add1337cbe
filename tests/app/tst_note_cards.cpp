// Notes in the window: done and undone, heard before they are taken, five at most.
#include "app/demo_window.h"
#include "patience.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestNoteCards : public QObject, DemoWindow {
  Q_OBJECT

  const Note* noteOn(const char* kind) {
    for (const auto& note : m_services->notes.notes())
      if (note.id.starts_with(kind)) return &note;
    return nullptr;
  }

private slots:
  void initTestCase() { prepare(); }
  void init() { QVERIFY(openDemo()); }
  void cleanup() { closeDemo(); }

  void notesSpeakAndCanBeDoneAndUndone() {
    settle();
    EVENTUALLY(noteOn("rub"));
    const ProjectPtr before = m_services->document.projectPtr();
    m_services->notes.doNote(*noteOn("rub"));
    QVERIFY(m_services->document.projectPtr() != before);
    EVENTUALLY(!noteOn("rub"));
    m_services->document.undo();
    QCOMPARE(m_services->document.projectPtr(), before);
    EVENTUALLY(noteOn("rub"));
  }

  void aNoteOnRightsOpensTheRecord() {
    settle();
    EVENTUALLY(noteOn("rights"));
    const ProjectPtr before = m_services->document.projectPtr();
    m_window->showStage(Stage::Print);
    m_services->notes.doNote(*noteOn("rights"));
    QCOMPARE(m_window->stage(), Stage::Crate);
    QCOMPARE(m_services->document.projectPtr(), before); // nothing is marked by itself
    QCOMPARE(current()->name, std::string("pier nine break"));
    auto* title = named<QLineEdit>(m_window->view(Stage::Crate), "Title");
    QVERIFY(title->isVisible());
  }

  void whatANoteWouldChangeIsHeardEquallyLoudBefore() {
    settle();
    EVENTUALLY(noteOn("rub"));
    for (const auto& pattern : project().patterns)
      if (pattern->name == "Slipway")
        m_services->document.select(
            withPatternChosen(m_services->document.selection(), pattern->id));
    m_window->showStage(Stage::Beat);
    auto* drawer = m_window->findChild<NotesDrawer*>();
    drawer->setOpen(true);
    settle();
    const ProjectPtr before = m_services->document.projectPtr();
    const ScorePtr usual = m_services->player.score();
    press(button(*drawer, "After"));
    EVENTUALLY(m_services->transport.playing());
    QVERIFY(!m_services->noteTrial.heard().empty());
    QVERIFY(m_services->player.score() != usual);
    QCOMPARE(m_services->document.projectPtr(), before); // nothing has changed yet
    QVERIFY(button(*drawer, "After")->isChecked());
    press(button(*drawer, "Before"));
    QVERIFY(m_services->noteTrial.heard().empty());
    QVERIFY(m_services->transport.playing()); // the music goes on
    press(button(*drawer, "After"));
    EVENTUALLY(!m_services->noteTrial.heard().empty());
    Project next = project();
    next.tempo = Bpm(83);
    m_services->document.edit("Set the tempo", next); // any edit ends it
    QVERIFY(m_services->noteTrial.heard().empty());
    m_services->transport.stop();
  }

  void whatIsLouderIsTurnedDownByAsMuch() {
    settle();
    Note louder;
    louder.id = "louder";
    louder.fix = [](Project p) {
      p.master.level.value += 5;
      return p;
    };
    m_services->noteTrial.hearAfter(louder);
    EVENTUALLY(m_services->transport.playing());
    QVERIFY2(std::abs(m_services->noteTrial.matchedBy().value + 5) < 0.05,
             qPrintable(QString::number(m_services->noteTrial.matchedBy().value)));
    m_services->transport.stop();
  }

  void atMostFiveNotesAreShown() {
    // Seven loans, heard in the song.
    Project p = project();
    for (int i = 0; i < 7; ++i) {
      Source source = sourceOf(makeSound(sine(200 + i, 0.2, 48000)), "loan " + std::to_string(i));
      Id id = 0, made = 0;
      p = withSource(std::move(p), source, &id);
      p = withKeySound(std::move(p), Row::Cuts, i, 40, {id, 0}, source.name, &made);
      const Id part = findKey(p, made)->part, pattern = p.sections[0].pattern;
      p = withPatternChanged(std::move(p), pattern, [&](Pattern& changed) {
        Hit hit;
        hit.key = made;
        laneOf(changed, part).hits.push_back(hit);
      });
    }
    m_services->document.edit("Take loans", std::move(p));
    m_window->showStage(Stage::Print);
    auto* drawer = m_window->findChild<NotesDrawer*>();
    drawer->setOpen(true);
    const auto cards = [&] {
      int shown = 0;
      for (auto* each : drawer->findChildren<QAbstractButton*>())
        shown += each->isVisibleTo(drawer) && each->text() == "Open its record";
      return shown;
    };
    EVENTUALLY_IS(cards(), 5);
    press(button(*drawer, "3 more"));
    EVENTUALLY_IS(cards(), 8);
    m_window->showStage(Stage::Beat);
    m_window->showStage(Stage::Print);
    EVENTUALLY_IS(cards(), 5);
  }
};

QTEST_MAIN(TestNoteCards)
#include "tst_note_cards.moc"
