// What stands round the stages: header, rail, drawer, deck, finder, messages; and small parts.
#include "app/demo_window.h"
#include "choose.h"
#include "patience.h"
#include "shell/message_bar.h"

#include <QMessageBox>

using namespace tuvvo;
using namespace tuvvo::test;

class TestShell : public QObject, DemoWindow {
  Q_OBJECT

private slots:
  void initTestCase() { prepare(); }
  void init() { QVERIFY(openDemo()); }
  void cleanup() { closeDemo(); }

  // ---- shell ----

  void theHeaderPlaysTapsAndSetsTheTempo() {
    auto* header = m_window->findChild<Header*>();
    const auto buttons = header->findChildren<SignButton*>();
    QCOMPARE(buttons.size(), 3);
    QTest::mouseClick(buttons[0], Qt::LeftButton);
    QVERIFY(m_services->transport.playing());
    QTest::mouseClick(buttons[0], Qt::LeftButton);
    QVERIFY(!m_services->transport.playing());
    QTest::mouseClick(buttons[2], Qt::LeftButton);
    QVERIFY(m_services->transport.metronome());
    emit slide(*header, "Tempo")->changed(84.5, true);
    QCOMPARE(project().tempo.value, 84.5);
    const QImage pattern = header->grab().toImage();
    command(*m_window, "Pattern or song");
    QCOMPARE(m_services->transport.plays(), Plays::Song);
    QVERIFY(header->grab().toImage() != pattern); // it is written beside the place
    command(*m_window, "Pattern or song");
    QCOMPARE(m_services->transport.plays(), Plays::Pattern);
    auto* ribbon = header->findChild<SongRibbon*>();
    click(ribbon, QPointF(ribbon->width() * 0.5, ribbon->height() / 2.0));
    QVERIFY(m_services->transport.playing());
    EVENTUALLY(m_services->transport.positionBeats() > inBeats(timelineOf(project()).length) * 0.4);
    m_services->transport.stop();
  }

  void writingOverAFileIsAskedFor() {
    auto* print = &m_window->view(Stage::Print);
    const QString path = m_dir.filePath("there.wav");
    QFile there(path);
    QVERIFY(there.open(QIODevice::WriteOnly) && there.write("precious") == 8);
    there.close();
    m_window->showStage(Stage::Print);
    named<QLineEdit>(*print, "File to write")->setText(path);
    for (const char* answer : {"Keep", "Write over"}) {
      m_services->transport.play(); // the question stops nothing
      command(*print, "Print the song");
      auto* box = m_window->findChild<QMessageBox*>("askToReplace");
      QVERIFY(box && box->informativeText().contains("there.wav"));
      QVERIFY(m_services->transport.playing());
      for (auto* button : box->buttons())
        if (button->text() == answer) button->click();
      settle();
      QCOMPARE(QFileInfo(path).size() > 8, QByteArray(answer) == "Write over");
      EVENTUALLY(!m_window->findChild<QMessageBox*>("askToReplace"));
    }
    m_services->transport.stop();
    // A name of its own needs no question.
    named<QLineEdit>(*print, "File to write")->setText(m_dir.filePath("new.wav"));
    command(*print, "Print the song");
    QVERIFY(!m_window->findChild<QMessageBox*>("askToReplace"));
    settle();
    QVERIFY(QFileInfo::exists(m_dir.filePath("new.wav")));
  }

  void whatWasNotSavedIsOfferedUntilItIsAnswered() {
    auto* bar = m_window->findChild<MessageBar*>();
    auto* answer = bar->findChild<QAbstractButton*>("answer");
    for (const bool taken : {false, true}) {
      int acted = 0;
      bar->offer("There is work", "Open it", [&] { ++acted; });
      QVERIFY(bar->isVisible() && answer->isVisible());
      QCOMPARE(answer->text(), QString("Open it"));
      emit m_services->message("Something happened", false); // over it for a while
      QVERIFY(!answer->isVisible());
      press(button(*bar, "Close"));
      QVERIFY(answer->isVisible());
      press(taken ? answer : button(*bar, "Close"));
      QVERIFY(!bar->isVisible());
      QCOMPARE(acted, int(taken));
    }
  }

  void whatWasOpenIsInTheMenu() {
    Project next = project();
    next.tempo = Bpm(87);
    m_services->document.edit("tempo", next);
    m_services->files.autosaveNow();
    const QString before = folder(*m_services);
    m_services->files.startNew();
    QMenu* menu = nullptr;
    for (auto* each : m_window->findChildren<QMenu*>())
      if (each->title() == "Open recent") menu = each;
    QVERIFY(menu);
    emit menu->aboutToShow();
    QVERIFY(!menu->actions().isEmpty());
    QAction* first = menu->actions().first();
    QVERIFY(first->text().startsWith("Salt Quay"));
    QVERIFY(first->text().endsWith("not saved"));
    first->trigger();
    settle();
    QCOMPARE(folder(*m_services), before);
    QCOMPARE(project().tempo.value, 87.0);
  }

  void aProjectForLookingSaysSo() {
    QVERIFY(saveAs(*m_services, m_dir.filePath("shown")));
    Services other;
    MainWindow window(other);
    other.files.startNew();
    other.files.open(m_dir.filePath("shown.tuvvo"));
    for (int i = 0; i < 4; ++i) {
      other.wait();
      QCoreApplication::processEvents();
    }
    QVERIFY2(window.windowTitle().contains("(for looking)"), qPrintable(window.windowTitle()));
  }

  void theRailGoesToEveryStage() {
    auto* rail = m_window->findChild<Rail*>();
    QSet<int> reached;
    for (auto* button : rail->findChildren<QAbstractButton*>()) {
      QTest::mouseClick(button, Qt::LeftButton);
      reached.insert(int(m_window->stage()));
    }
    QCOMPARE(int(reached.size()), 6);
  }

  void theDrawerShowsNotesLineageAndSteps() {
    auto* drawer = m_window->findChild<NotesDrawer*>();
    const auto texts = [&] {
      QStringList out;
      for (auto* label : drawer->findChildren<Label*>())
        if (label->isVisibleTo(drawer)) out << label->text();
      return out.join('\n');
    };
    selectKey(*m_services, keyAt(project(), Row::Cuts, 0, 0)->id);
    press(button(*drawer, "Lineage"));
    QVERIFY(texts().contains("Source:") && texts().contains("Rights:"));
    for (double bpm : {81.0, 82.0}) {
      Project next = project();
      next.tempo = Bpm(bpm);
      m_services->document.edit(QString("to %1").arg(bpm), next);
    }
    press(button(*drawer, "Steps"));
    press(button(*drawer, "to 81"));
    QCOMPARE(project().tempo.value, 81.0);
    press(button(*drawer, "Notes"));
    settle();
    QVERIFY(!m_services->notes.notes().empty());
    m_window->showStage(Stage(int(m_services->notes.notes()[0].stage)));
    settle();
    const auto count = m_services->notes.notes().size();
    press(button(*drawer, "Dismiss"));
    settle();
    QCOMPARE(m_services->notes.notes().size(), count - 1);
  }

  void aNoteThatSaysSomethingElseKeepsItsCard() {
    auto* drawer = m_window->findChild<NotesDrawer*>();
    const auto kick =
        std::find_if(project().keys.begin(), project().keys.end(),
                     [](const Key& key) { return key.name == "kick, pier nine break"; });
    const Id key = kick->id;
    const auto tuned = [&](double semitones) {
      m_services->document.edit(
          "tune", withKeyChanged(project(), key, [&](Key& k) { k.fine = Cents(semitones * 100); }));
      settle();
    };
    const auto figure = [&]() -> Label* {
      for (auto* label : drawer->findChildren<Label*>())
        if (label->text().contains("semitones apart")) return label;
      return nullptr;
    };
    m_window->showStage(Stage::Beat);
    settle();
    const QPointer<Label> said = figure();
    QVERIFY(said);
    const QString before = said->text();
    tuned(0.2);
    QVERIFY(said && said == figure());
    QVERIFY2(said->text() != before, qPrintable(before));
    // What it offers goes by what it says now.
    press(button(*said->parentWidget(), "Tune the kick"));
    settle();
    QVERIFY(!figure());
  }

  void theDeckIsWholeWhereItIsPlayedAndComesBackOnAKey() {
    m_window->resize(1280, 800);
    Deck& deck = m_window->deck();
    for (const auto& [stage, rows] : {std::pair{Stage::Crate, 4},
                                      {Stage::Cut, 1},
                                      {Stage::Keys, 4},
                                      {Stage::Beat, 1},
                                      {Stage::Song, 1},
                                      {Stage::Print, 1}}) {
      m_window->showStage(stage);
      QCOMPARE(deck.rows(), rows);
    }
    m_window->showStage(Stage::Beat);
    QTest::keyClick(m_window.get(), Qt::Key_1); // seen: nothing moves
    QCOMPARE(deck.rows(), 1);
    QTest::keyClick(m_window.get(), Qt::Key_A);
    QCOMPARE(deck.rows(), 4);
    m_window->showStage(Stage::Cut);
    QCOMPARE(deck.rows(), 1); // each stage by itself
    m_services->recorder.toggleRecord();
    QCOMPARE(deck.rows(), 4);
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    QCOMPARE(deck.rows(), 1);
    command(*m_window, "Fold the key deck");
    QVERIFY(deck.isHidden());
    command(*m_window, "Fold the key deck");
    QCOMPARE(deck.rows(), 4);
  }

  void theDeckPaintsWhatHasChanged() {
    Deck& deck = m_window->deck();
    const auto picture = [&] { return deck.grab().toImage(); };
    const auto cap = [&](const QImage& image, int column) {
      return image.copy(deck.capOf({Row::Floor, column}).toAlignedRect());
    };
    const QImage before = picture();
    QCOMPARE(picture(), before);
    const Id key = keyAt(project(), Row::Floor, 0, 0)->id;
    m_services->document.edit("mute", withMuteFlipped(project(), key, Whose::Key, false));
    const QImage muted = picture();
    QVERIFY(cap(muted, 0) != cap(before, 0));
    QCOMPARE(cap(muted, 1), cap(before, 1));
    m_services->document.edit("name",
                              withKeyChanged(project(), key, [](Key& k) { k.name = "buoy"; }));
    QVERIFY(picture() != muted);
    m_services->document.undo();
    m_services->document.undo();
    QCOMPARE(picture(), before);
    theme::apply(*qApp, true, 1);
    QVERIFY(picture() != before); // daylight
    theme::apply(*qApp, false, 1);
    QCOMPARE(picture(), before);
  }

  void theDeckSoundsUnderThePointer() {
    Deck& deck = m_window->deck();
    m_services->player.engine().send(Engine::Command{Engine::Command::Kind::Silence});
    EVENTUALLY_IS(m_services->player.engine().sounding(), 0);
    const Id before = m_services->document.selection().key;
    QTest::mousePress(&deck, Qt::LeftButton, {}, QPoint(deck.width() / 2, deck.height() - 30));
    EVENTUALLY(m_services->player.engine().sounding() > 0);
    QTest::mouseRelease(&deck, Qt::LeftButton, {}, QPoint(deck.width() / 2, deck.height() - 30));
    QVERIFY(m_services->document.selection().key != before);
  }

  void keysAreLetGoWhenTheWindowLosesTheKeyboard() {
    const Id key = keyAt(project(), Row::Floor, 4, 0)->id;
    m_services->document.edit("gate", withKeyChanged(project(), key, [](Key& k) {
                                k.gate = true;
                                k.envelope.release = Milliseconds(10);
                              }));
    QTest::keyPress(QApplication::focusWidget(), Qt::Key_B); // the fifth of the Floor row
    EVENTUALLY(m_services->player.engine().sounding() > 0);
    m_window->deck().letAllGo();
    EVENTUALLY_IS(m_services->player.engine().sounding(), 0);
  }

  void theFinderClosesOnEscapeAndGivesTheKeyboardBack() {
    m_window->showStage(Stage::Beat);
    auto* before = QApplication::focusWidget();
    QTest::keyClick(before, Qt::Key_K, Qt::ControlModifier);
    auto* finder = m_window->findChild<Finder*>();
    QVERIFY(finder->isVisible());
    auto* edit = finder->findChild<QLineEdit*>();
    QTest::keyClicks(edit, "zzzqqq");
    QCOMPARE(finder->findChild<QListWidget*>()->count(), 0);
    QTest::keyClick(edit, Qt::Key_Return); // nothing found: nothing done
    QTest::keyClick(edit, Qt::Key_Escape);
    QVERIFY(!finder->isVisible());
    QVERIFY(m_window->isAncestorOf(QApplication::focusWidget()));
  }

  void messagesStandUntilClosed() {
    emit m_services->message("The tide is out.", true);
    Label* shown = nullptr;
    for (auto* label : m_window->findChildren<Label*>())
      if (label->text() == "The tide is out.") shown = label;
    QVERIFY(shown && shown->isVisible());
    for (auto* each : m_window->findChildren<QAbstractButton*>())
      if (each->text() == "Close") QTest::mouseClick(each, Qt::LeftButton);
    QVERIFY(!shown->isVisible());
  }

  void narrowWindowsFoldTheDrawerAndWideOnesOpenIt() {
    auto* drawer = m_window->findChild<NotesDrawer*>();
    m_window->showStage(Stage::Beat);
    EVENTUALLY(!m_services->notes.notes().empty());
    settle();
    const auto wide = [&](int width) {
      m_window->resize(width, 760);
      QCoreApplication::processEvents();
      return drawer->width() > theme::px(100);
    };
    drawer->setOpen(true);
    QVERIFY(wide(1400) && !wide(920) && wide(1400));
    command(*m_window, "Fold the notes drawer");
    QVERIFY(!wide(1400));
    drawer->setOpen(true);
    m_window->showStage(Stage::Keys); // of which there is nothing to say
    QVERIFY(!wide(1400));
  }

  // ---- small parts ----

  void theSmallWaveIsAsHighAsItsBox() {
    Samples samples(48000, 0.0f);
    for (std::size_t i = 24000; i < 48000; ++i) samples[i] = i % 2 ? 0.1f : -0.1f;
    const SoundPtr sound = makeSound(samples);
    const auto peaks = std::make_shared<Peaks>(*sound);
    QImage image(100, 40, QImage::Format_RGB32);
    image.fill(Qt::black);
    QPainter p(&image);
    drawSmallWave(p, QRectF(0, 0, 100, 40), *sound, peaks, {Frames(0), sound->frames()}, Qt::white);
    p.end();
    const auto lit = [&](int x) {
      int n = 0;
      for (int y = 0; y < 40; ++y) n += qGray(image.pixel(x, y)) > 100 ? 1 : 0;
      return n;
    };
    QVERIFY(lit(20) <= 3);  // silence is a line
    QVERIFY(lit(75) >= 36); // however quiet, the loudest fills the box
    QPainter q(&image);
    drawSmallWave(q, QRectF(0, 0, 100, 40), *sound, nullptr, {Frames(0), Frames(1)}, Qt::white);
  }

  void rolesStandInOneOrderEverywhere() {
    QVERIFY(theme::placeOf(Row::Air) < theme::placeOf(Row::Body));
    QVERIFY(theme::placeOf(Row::Body) < theme::placeOf(Row::Cuts));
    QVERIFY(theme::placeOf(Row::Cuts) < theme::placeOf(Row::Floor));
  }
};

QTEST_MAIN(TestShell)
#include "tst_shell.moc"
