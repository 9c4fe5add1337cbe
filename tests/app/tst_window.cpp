// The real window through a short evening: drop a sound, cut it, press keys, record a bar, undo all
// of it, save, reopen, print, and compare the print with the core's.
#include "audio/decode.h"
#include "audio/encode.h"
#include "beat/alike_strip.h"
#include "beat/beat_stage.h"
#include "beat/ribbons_view.h"
#include "choose.h"
#include "cut/cut_stage.h"
#include "cut/wave_view.h"
#include "formats/bundle.h"
#include "patience.h"
#include "shell/deck.h"
#include "shell/finder.h"
#include "shell/main_window.h"
#include "shell/notes_drawer.h"
#include "song/timeline.h"
#include "support.h"
#include "theme/theme.h"
#include "widgets/slide.h"

#include <QApplication>
#include <QDropEvent>
#include <QLineEdit>
#include <QMimeData>
#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestWindow : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  std::unique_ptr<Services> m_services;
  std::unique_ptr<MainWindow> m_window;

  void settle() {
    m_services->wait();
    for (int i = 0; i < 5; ++i) QCoreApplication::processEvents();
  }
  void key(Qt::Key k, Qt::KeyboardModifiers modifiers = {}) {
    QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : m_window.get(), k,
                    modifiers);
    QCoreApplication::processEvents();
  }
  void drop(const QString& file) {
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file)});
    QDragEnterEvent enter({100, 100}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QCoreApplication::sendEvent(m_window.get(), &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent event({100, 100}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QCoreApplication::sendEvent(m_window.get(), &event);
    settle();
  }
  QString path(const char* name) { return m_dir.path() + "/" + name; }
  const Project& project() { return m_services->document.project(); }

private slots:
  void initTestCase() {
    for (const char* place : {"XDG_DATA_HOME", "XDG_CONFIG_HOME"})
      qputenv(place, m_dir.path().toUtf8());
    theme::apply(*qApp, false, 1.0);
    m_services = std::make_unique<Services>();
    m_window = std::make_unique<MainWindow>(*m_services);
    m_services->files.startNew();
    m_services->player.openSound({OutputChoice::Simulated});
    m_window->show();
    m_window->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
    QVERIFY(encodeFile(*drumLoop(100, 16), path("dropped.wav").toStdString(),
                       {FileFormat::Wav, SampleFormat::Int24})
                .ok());
    QFile(path("not a sound.wav")).open(QIODevice::WriteOnly);
  }

  void init() {
    m_window->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
  }

  void cleanupTestCase() {
    m_window.reset();
    m_services.reset();
  }

  void aBadFileSaysSoAndTouchesNothing() {
    const ProjectPtr before = m_services->document.projectPtr();
    QSignalSpy said(m_services.get(), &Services::message);
    drop(path("not a sound.wav"));
    QVERIFY(said.count() >= 1);
    QVERIFY(said.first().first().toString().contains("not a sound.wav"));
    QVERIFY(before == m_services->document.projectPtr());
  }

  void dropCutPlayRecordUndoSaveReopenPrint() {
    const std::size_t start = m_services->document.history().place();
    drop(path("dropped.wav"));
    const Source* source = findSource(project(), m_services->document.selection().source);
    QVERIFY(source && source->name == "dropped");
    QVERIFY(std::abs(gridOf(*source)->tempo.value - 100) < 0.05);

    // Cut it by beats, with the keyboard.
    key(Qt::Key_F2);
    QCOMPARE(m_window->stage(), Stage::Cut);
    key(Qt::Key_2, Qt::ControlModifier);
    source = findSource(project(), source->id);
    QCOMPARE(int(source->cuts.size()), 16);
    QVERIFY(keyAt(project(), Row::Cuts, 7, 1));

    // Record: keys struck after the count-in are laid into the pattern.
    key(Qt::Key_F4);
    Project faster = project();
    faster.tempo = Bpm(180);
    m_services->document.edit("tempo", faster);
    const PatternPtr empty = project().patterns[0];
    key(Qt::Key_R, Qt::ControlModifier);
    QVERIFY(m_services->recorder.recording());
    QVERIFY(m_services->transport.positionBeats() <= 0.2);
    EVENTUALLY(m_services->transport.positionBeats() > 0.4);
    const Id first = keyAt(project(), Row::Cuts, 0, 0)->id,
             kick = keyAt(project(), Row::Floor, 0, 0)->id;
    QSignalSpy heard(&m_services->player, &Player::struck);
    QTest::keyPress(QApplication::focusWidget(), Qt::Key_1);
    EVENTUALLY_IS(heard.size(), 1);
    QTest::keyRelease(QApplication::focusWidget(), Qt::Key_1);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Z);
    EVENTUALLY_IS(heard.size(), 2);
    key(Qt::Key_R, Qt::ControlModifier);
    QVERIFY(!m_services->recorder.recording());
    key(Qt::Key_Space);
    QVERIFY(!m_services->transport.playing());
    std::vector<Id> struck;
    for (const auto& lane : project().patterns[0]->lanes)
      for (const auto& hit : lane.hits) struck.push_back(hit.key);
    QCOMPARE(int(struck.size()), 2);
    QVERIFY(std::find(struck.begin(), struck.end(), first) != struck.end());
    QVERIFY(std::find(struck.begin(), struck.end(), kick) != struck.end());

    // Undo everything, then do it all again: the same value comes back.
    const Project full = project();
    int undone = 0;
    while (m_services->document.history().place() > start) {
      key(Qt::Key_Z, Qt::ControlModifier);
      ++undone;
      QVERIFY(undone < 50);
    }
    QVERIFY(project().sources.size() + 1 == full.sources.size());
    for (int i = 0; i < undone; ++i) key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(project() == full);

    // Save, open again in another services, print from both and from the core.
    QVERIFY(saveAs(*m_services, path("evening")));
    QVERIFY(!m_services->files.unsaved());
    JobContext job;
    const auto reopened = openProject(path("evening.tuvvo").toStdString(), job);
    QVERIFY(reopened.ok() && !reopened->recovered && reopened->warnings.empty());
    const auto fromCore = *print(compileSong(reopened->project), {}, job);
    PrintService::Request request;
    request.file.path = path("evening.wav").toStdString();
    request.file.samples = SampleFormat::Float32;
    m_services->printing.printSong(request);
    settle();
    const auto fromWindow = decodeFile(request.file.path, job);
    QVERIFY(fromWindow.ok());
    QCOMPARE(fromWindow->sound->hash(), fromCore->hash());
    QVERIFY(peakOf(*fromCore, Frames(0), fromCore->frames()) > 0.05f);
  }

  void autosaveBringsBackWhatWasNotSaved() {
    Project next = project();
    next.tempo = Bpm(91.5);
    m_services->document.edit("tempo", next);
    m_services->files.autosaveNow();
    JobContext job;
    const auto opened = openProject(folder(*m_services).toStdString(), job);
    QVERIFY(opened.ok());
    QVERIFY(opened->recovered);
    QCOMPARE(opened->project.tempo.value, 91.5);
    QVERIFY(save(*m_services));
  }

  void theDeckGoesByPhysicalPosition() {
    // On a French layout the key at US Q prints A; its scan code is the same.
    const QKeyEvent french(QEvent::KeyPress, Qt::Key_A, {}, 24, 0, 0, "a");
    QCOMPARE(deckPlaceOf(french)->row, Row::Air);
    QCOMPARE(deckPlaceOf(french)->column, 0);
    const QKeyEvent comma(QEvent::KeyPress, Qt::Key_Semicolon, {}, 59, 0, 0, ";");
    QCOMPARE(deckPlaceOf(comma)->row, Row::Floor);
    QCOMPARE(deckPlaceOf(comma)->column, 7);
    QVERIFY(!deckPlaceOf(QKeyEvent(QEvent::KeyPress, Qt::Key_P, {}, 33, 0, 0, "p")));
    const QKeyEvent noCode(QEvent::KeyPress, Qt::Key_A, {});
    QCOMPARE(deckPlaceOf(noCode)->row, Row::Body); // without a code, by the US letter
  }

  void keysSoundInEveryStage() {
    for (int stage = 0; stage < 6; ++stage) {
      key(Qt::Key(Qt::Key_F1 + stage));
      QCOMPARE(int(m_window->stage()), stage);
      m_services->player.engine().send(Engine::Command{Engine::Command::Kind::Silence});
      EVENTUALLY_IS(m_services->player.engine().sounding(), 0);
      QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : m_window.get(),
                      Qt::Key_Z);
      EVENTUALLY(m_services->player.engine().sounding() > 0);
    }
  }

  void typingIntoAFieldPlaysNothing() {
    key(Qt::Key_F6);
    auto* field = m_window->view(Stage::Print).findChild<QLineEdit*>();
    field->setFocus();
    m_services->player.engine().send(Engine::Command{Engine::Command::Kind::Silence});
    EVENTUALLY_IS(m_services->player.engine().sounding(), 0);
    m_services->player.takeReports(); // of what was played before
    QSignalSpy struck(&m_services->player, &Player::struck);
    QTest::keyClick(field, Qt::Key_Z);
    m_services->hand.strike(project().keys.front().id, 0.7); // a strike of Z would come before it
    EVENTUALLY(!struck.empty());
    QCOMPARE(struck.size(), 1);
    m_window->view(Stage::Print).setFocus();
  }

  void cutsByKeyboardAlone() {
    key(Qt::Key_F2);
    key(Qt::Key_Right);
    const Id cut = m_services->document.selection().cut;
    QVERIFY(cut != 0);
    const auto before = findSource(project(), m_services->document.selection().source)->cuts.size();
    key(Qt::Key_Insert);
    QCOMPARE(findSource(project(), m_services->document.selection().source)->cuts.size(),
             before + 1);
    key(Qt::Key_Right);
    key(Qt::Key_Delete);
    QCOMPARE(findSource(project(), m_services->document.selection().source)->cuts.size(), before);
    key(Qt::Key_Right);
    const Frames at = findCut(*findSource(project(), m_services->document.selection().source),
                              m_services->document.selection().cut)
                          ->start;
    key(Qt::Key_Right, Qt::ControlModifier); // a millisecond later
    QCOMPARE(findCut(*findSource(project(), m_services->document.selection().source),
                     m_services->document.selection().cut)
                 ->start.value,
             at.value + 44);
  }

  void cutsByPointer() {
    key(Qt::Key_F2);
    auto* wave = m_window->view(Stage::Cut).findChild<WaveView*>();
    const Source* source = findSource(project(), m_services->document.selection().source);
    const auto count = source->cuts.size();
    const double middle = double(source->cuts[1].start.value + source->cuts[1].end.value) / 2;
    QTest::mouseDClick(wave, Qt::LeftButton, {},
                       QPoint(int(wave->xOf(middle)), wave->height() / 2));
    source = findSource(project(), m_services->document.selection().source);
    QCOMPARE(source->cuts.size(), count + 1);
    const double shown = wave->framesShown();
    wave->zoom(0.25, middle);
    QVERIFY(std::abs(wave->framesShown() - shown / 4) < 1);
    QVERIFY(std::abs(wave->frameAt(wave->xOf(middle)) - middle) < 1);
    wave->zoom(1e9, middle);
    QCOMPARE(wave->framesShown(), double(source->sound->frames().value));
    wave->zoom(1e-9, middle);
    QVERIFY(wave->framesShown() >= 64);
    wave->showAll();
  }

  void hitsByKeyboardAndPointer() {
    key(Qt::Key_F4);
    auto& ribbons = static_cast<BeatStage&>(m_window->view(Stage::Beat)).ribbons();
    const auto hits = [&] {
      std::size_t n = 0;
      for (const auto& lane :
           findPattern(project(), m_services->document.selection().pattern)->lanes)
        n += lane.hits.size();
      return n;
    };
    const auto before = hits();
    for (int i = 0; i < 3; ++i) key(Qt::Key_Right);
    const bool there = ribbons.hasHitAtCursor();
    key(Qt::Key_Return);
    QCOMPARE(hits(), there ? before - 1 : before + 1);
    key(Qt::Key_Return);
    QCOMPARE(hits(), before);
    QTest::mouseClick(&ribbons, Qt::LeftButton, {}, QPoint(ribbons.width() / 2 + 3, 30));
    QCOMPARE(hits(), before + 1);
    key(Qt::Key_Plus);
    key(Qt::Key_Right, Qt::ControlModifier); // is shifted a millisecond
    bool leans = false;
    for (const auto& lane : findPattern(project(), m_services->document.selection().pattern)->lanes)
      for (const auto& hit : lane.hits) leans = leans || hit.microTiming.value == 1;
    QVERIFY(leans);
    key(Qt::Key_Delete);
    QCOMPARE(hits(), before);
  }

  void songByKeyboard() {
    key(Qt::Key_F5);
    const auto count = project().sections.size();
    key(Qt::Key_Insert);
    QCOMPARE(project().sections.size(), count + 1);
    key(Qt::Key_Left, Qt::ControlModifier);
    QVERIFY(m_services->document.selection().section == project().sections[count - 1].id);
    key(Qt::Key_Return);
    QCOMPARE(
        int(findSection(project(), m_services->document.selection().section)->mutedParts.size()),
        1);
    key(Qt::Key_Delete);
    QCOMPARE(project().sections.size(), count);
  }

  void keysStageByKeyboard() {
    key(Qt::Key_F3);
    selectKey(*m_services, keyAt(project(), Row::Floor, 0, 0)->id);
    key(Qt::Key_Right);
    QCOMPARE(m_services->document.selection().key, keyAt(project(), Row::Floor, 1, 0)->id);
    key(Qt::Key_J, Qt::ControlModifier);
    QCOMPARE(findKey(project(), m_services->document.selection().key)->choke, 1);
    key(Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(findKey(project(), m_services->document.selection().key)->choke, 0);
  }

  void slidesByKeyPointerAndWheel() {
    Slide slide("Level", {-60, 12, 0, 0.5, 1}, "dB");
    slide.resize(200, 40);
    slide.show();
    slide.activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(&slide));
    slide.setFocus();
    QSignalSpy spy(&slide, &Slide::changed);
    QTest::keyClick(&slide, Qt::Key_Right);
    QCOMPARE(slide.value(), 0.5);
    QTest::mousePress(&slide, Qt::LeftButton, {}, QPoint(100, 30));
    QTest::mouseMove(&slide, QPoint(150, 30));
    QTest::mouseRelease(&slide, Qt::LeftButton, {}, QPoint(150, 30));
    QVERIFY(slide.value() > 5);
    QTest::mouseDClick(&slide, Qt::LeftButton, {}, QPoint(100, 30));
    QCOMPARE(slide.value(), 0.0);
    slide.setValue(999);
    QCOMPARE(slide.value(), 12.0);
    QTest::keyClick(&slide, Qt::Key_Return);
    auto* edit = slide.findChild<QLineEdit*>();
    QVERIFY(edit);
    edit->setText("-7.5");
    QTest::keyClick(edit, Qt::Key_Return);
    QCOMPARE(slide.value(), -7.5);
    const auto type = [&](const char* text) {
      QTest::keyClick(&slide, Qt::Key_Return);
      edit = slide.findChildren<QLineEdit*>().back();
      edit->setText(text);
      QTest::keyClick(edit, Qt::Key_Return);
      return slide.value();
    };
    QCOMPARE(type("+2 dB"), 2.0);
    QCOMPARE(type("-3,5db"), -3.5);
    QCOMPARE(type("loud"), -3.5); // it stays, and says so
    // Note values go by the tempo of the window, and notes by their names.
    Slide time("Time", {0, 5000, 0, 1, 0}, "ms");
    time.setProperty("bpm", 120.0);
    Slide note("From", {0, 127, 28, 1, 0}, "");
    note.setNote();
    for (auto& [widget, text, value] : std::vector<std::tuple<Slide*, const char*, double>>{
             {&time, "1/8d", 375}, {&time, "1.5 s", 1500}, {&note, "Eb3", 51}, {&note, "40", 40}}) {
      widget->show();
      QTest::keyClick(widget, Qt::Key_Return);
      auto* open = widget->findChildren<QLineEdit*>().back();
      open->setText(text);
      QTest::keyClick(open, Qt::Key_Return);
      QCOMPARE(widget->value(), value);
    }
    QVERIFY(spy.count() >= 4);
  }

  void theFinderReachesEverything() {
    QVERIFY(Finder::match("prt", "Print the song") > 0);
    QVERIFY(Finder::match("xyz", "Print the song") < 0);
    QVERIFY(Finder::match("undo", "Undo") > Finder::match("undo", "Put it under an odd one"));
    key(Qt::Key_K, Qt::ControlModifier);
    auto* finder = m_window->findChild<Finder*>();
    QVERIFY(finder->isVisible());
    auto* edit = finder->findChild<QLineEdit*>();
    QTest::keyClicks(edit, "stage: song");
    QTest::keyClick(edit, Qt::Key_Return);
    QVERIFY(!finder->isVisible());
    QCOMPARE(m_window->stage(), Stage::Song);
  }

  void lineageNamesTheWholeWay() {
    const Key* cut = nullptr;
    for (const auto& k : project().keys)
      if (k.sound.cut != 0) cut = &k;
    QVERIFY(cut);
    const QString lines = lineageOf(project(), *cut).join('\n');
    for (const char* part : {"Key:", "Cut ", "Source: dropped", "dropped.wav", "Rights:"})
      QVERIFY2(lines.contains(part), part);
  }

  void everyControlHasANameAndATip() {
    for (QWidget* widget : m_window->findChildren<QWidget*>()) {
      if (auto* button = qobject_cast<QAbstractButton*>(widget);
          button && button->objectName() != "qt_menubar_ext_button") {
        QVERIFY2(!button->accessibleName().isEmpty() || !button->text().isEmpty(),
                 button->metaObject()->className());
        QVERIFY2(!button->toolTip().isEmpty(), qPrintable(button->text()));
      }
      if (auto* slide = qobject_cast<Slide*>(widget))
        QVERIFY(!slide->accessibleName().isEmpty() && !slide->toolTip().isEmpty());
    }
  }

  void paintsAtOtherSizesScalesAndPalettes() {
    for (const QSize size : {QSize(1024, 700), QSize(1920, 1080)}) {
      m_window->resize(size);
      for (int stage = 0; stage < 6; ++stage) {
        m_window->showStage(Stage(stage));
        QCOMPARE(m_window->grab().size(), size);
      }
    }
    m_window->resize(1280, 800);
  }
};

QTEST_MAIN(TestWindow)
#include "tst_window.moc"
