// The Crate stage through its own controls: this beat, the crate, the service.
#include "app/demo_window.h"
#include "audio/encode.h"
#include "choose.h"
#include "listen/tap_tempo.h"
#include "model/resolved_source.h"
#include "patience.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestCrateStage : public QObject, DemoWindow {
  Q_OBJECT

  CrateStage& stage() { return static_cast<CrateStage&>(m_window->view(Stage::Crate)); }
  SourceList* list() { return find<SourceList>(Stage::Crate); }
  int rows() { return list()->model()->rowCount(); }
  QString rowName(int row) { return list()->model()->index(row, 0).data().toString(); }
  QStringList names() {
    QStringList out;
    for (int i = 0; i < rows(); ++i) out << rowName(i);
    return out;
  }
  QLineEdit* field(const QString& name) {
    for (auto* each : stage().findChildren<QLineEdit*>())
      if (each->accessibleName() == name) return each;
    qFatal("no field %s", qPrintable(name));
  }
  QComboBox* combo(const QString& name) {
    for (auto* each : stage().findChildren<QComboBox*>())
      if (each->accessibleName() == name) return each;
    qFatal("no combo %s", qPrintable(name));
  }
  void write(const QString& name, const QString& text) {
    QLineEdit* line = field(name);
    line->setText(text);
    emit line->editingFinished();
  }
  void choose(const QString& name) {
    const int row = int(names().indexOf(name));
    QVERIFY2(row >= 0, qPrintable(names().join(',')));
    list()->setCurrentIndex(list()->model()->index(row, 0));
  }
  void put(const char* name, double bpm) {
    const auto path = pathIn(*m_sounds, name);
    QVERIFY(encodeFile(*drumLoop(bpm, 16), path, {FileFormat::Wav, SampleFormat::Int16}).ok());
    std::filesystem::last_write_time(path, std::filesystem::file_time_type::clock::now() -
                                               std::chrono::seconds(10));
  }
  /// Taps so many times. @returns which tempo the taps made, by the times at which they came: a
  /// busy machine taps late and unevenly. (Which tempo taps make is tested in tst_listen.)
  double tapFor(int taps, int everyMs) {
    auto* tap = button(stage(), "Tap");
    QElapsedTimer clock;
    clock.start();
    TapTempo came;
    for (int i = 0; i < taps; ++i) {
      QTest::qWait(i == 0 ? 0 : everyMs);
      came.tap(Seconds(double(clock.nsecsElapsed()) * 1e-9));
      QTest::mousePress(tap, Qt::LeftButton);
      QTest::mouseRelease(tap, Qt::LeftButton);
    }
    return came.tempo()->bpm.value;
  }
  void fillCrate() {
    put("slow drums.wav", 78);
    put("near drums.wav", 86);
    put("quick drums.wav", 140);
    m_window->showStage(Stage::Crate);
    press(button(stage(), "Everything"));
    m_services->crate.addFolder(m_sounds->path());
    EVENTUALLY_IS(heardRows(), 3);
    EVENTUALLY_IS(rows(), 3);
    EVENTUALLY(!m_services->crate.scanner()->progress().working());
  }
  int heardRows() {
    const auto found = m_services->crate.crate()->find({}, CrateOrder::Name, {});
    int heard = 0;
    for (CrateId id : found->ids) heard += (*m_services->crate.crate()->row(id))->heard;
    return heard;
  }
  std::unique_ptr<QTemporaryDir> m_sounds, m_home;

private slots:
  void initTestCase() { prepare(); }
  void init() {
    m_sounds = std::make_unique<QTemporaryDir>();
    m_home = std::make_unique<QTemporaryDir>();
    qputenv("XDG_DATA_HOME", m_home->path().toUtf8());
    QVERIFY(openDemo());
  }
  void cleanup() { closeDemo(); }

  // ---- this beat ----

  void sourcesAndTheKitOnRequest() {
    m_window->showStage(Stage::Crate);
    QCOMPARE(rows(), 3);
    press(button(stage(), "With the kit"));
    QCOMPARE(rows(), int(project().sources.size()));
    press(button(stage(), "With the kit"));
    QCOMPARE(rows(), 3);
    QVERIFY(list()->model()->index(0, 0).data(Qt::AccessibleTextRole).toString().contains("BPM"));
  }

  void tempoIsCorrectedAndTakenBack() {
    m_window->showStage(Stage::Crate);
    selectSource(*m_services, sourceNamed("lantern row"));
    const auto was = current()->corrections;
    const double heard = gridOf(*current())->tempo.value;
    press(button(stage(), "÷2"));
    QCOMPARE(gridOf(*current())->tempo.value, heard / 2);
    QCOMPARE(ResolvedSource(*current()).bars().size(), std::size_t(2)); // bars follow
    press(button(stage(), "×2"));
    QCOMPARE(gridOf(*current())->tempo.value, heard);
    for (int i = 0; i < 6; ++i) press(button(stage(), "×2")); // never past what can be
    QVERIFY(gridOf(*current())->tempo.value <= 400);
    press(button(stage(), "As heard"));
    QCOMPARE(gridOf(*current())->tempo.value, heard);
    QVERIFY(current()->corrections == Corrections{});
    QVERIFY(!button(stage(), "As heard")->isEnabled());
    m_services->document.undo();
    QVERIFY(current()->corrections.tempo);
    while (m_services->document.history().canUndo()) m_services->document.undo();
    QVERIFY(current()->corrections == was);
  }

  void aTempoIsTapped() {
    m_window->showStage(Stage::Crate);
    selectSource(*m_services, sourceNamed("quay at night"));
    QVERIFY(!gridOf(*current())); // gulls and ropes have no tempo
    const double bpm = tapFor(5, 400);
    QVERIFY(gridOf(*current()));
    QVERIFY(std::abs(gridOf(*current())->tempo.value / bpm - 1) < 0.1);
    m_services->document.undo(); // all the taps are one step
    QVERIFY(!gridOf(*current()));
  }

  /// The break of the demo over its loop, heard with the beat, by the keyboard.
  void waysToLieOverAnotherAreHeard() {
    m_window->showStage(Stage::Crate);
    selectSource(*m_services, sourceNamed("pier nine break"));
    press(button(stage(), "Lies over"));
    QListView* ways = nullptr;
    for (auto* view : stage().findChildren<QListView*>())
      if (view->accessibleName().startsWith("Ways")) ways = view;
    QVERIFY(ways && ways->isVisible() && ways->model()->rowCount() >= 2);
    QCOMPARE(combo("Over which source")->currentText(), QString("lantern row"));
    const QString said = ways->model()->index(0, 0).data(Qt::AccessibleTextRole).toString();
    QVERIFY2(said.contains("over bar") && said.contains("room") && said.contains("same pitch"),
             qPrintable(said));
    ways->setFocus();
    ways->setCurrentIndex(ways->model()->index(0, 0));
    QTest::keyClick(ways, Qt::Key_Return);
    auto& auditions = m_services->auditions;
    EVENTUALLY(auditions.heard().sounding);
    QCOMPARE(auditions.heard().how, std::string("over lantern row"));
    QVERIFY(!auditions.hears(*current())); // not by itself
    QTest::keyClick(ways, Qt::Key_Return);
    QVERIFY(auditions.heard().hash.empty());
    // What has no tempo says so, and what to do.
    selectSource(*m_services, sourceNamed("quay at night"));
    QVERIFY(!ways->isVisible());
  }

  void whatIsLikeItIsFound() {
    fillCrate();
    field("Search the crate")->setText("has drums");
    EVENTUALLY_IS(rows(), 3);
    field("Search the crate")->setText("no drums");
    EVENTUALLY_IS(rows(), 0);
    field("Search the crate")->clear();
    EVENTUALLY_IS(rows(), 3);
    choose("quick drums");
    command(stage(), "Find what is like it");
    QCOMPARE(field("Search the crate")->text(), QString("like this one"));
    QVERIFY(rows() >= 1);
    QCOMPARE(rowName(0), QString("quick drums"));
    choose(rowName(rows() - 1)); // "this one" stays what it was
    QCOMPARE(rowName(0), QString("quick drums"));
    bool said = false;
    for (auto* label : stage().findChildren<Label*>())
      said = said || label->text().contains("like quick drums");
    QVERIFY(said);
  }

  void provenanceAreWrittenAndUndone() {
    m_window->showStage(Stage::Crate);
    selectSource(*m_services, sourceNamed("pier nine break"));
    press(button(stage(), "Rights and origin"));
    QVERIFY(current()->provenance == Provenance{});
    write("Made by", "the crew of pier nine");
    QVERIFY(current()->provenance.maker == "the crew of pier nine");
    for (const char* which : {"Recording", "Composition"}) {
      combo(which)->setCurrentIndex(int(Permission::Granted));
      emit combo(which)->activated(int(Permission::Granted));
    }
    QVERIFY(cleared(current()->provenance));
    write("Tags", "dusty, loose ,  ");
    const std::string hash = current()->hash;
    QVERIFY(m_services->crate.marksOf(hash).tags == (std::vector<std::string>{"dusty", "loose"}));
    combo("Stars")->setCurrentIndex(4);
    emit combo("Stars")->activated(4);
    QCOMPARE(m_services->crate.marksOf(hash).stars, 4);
    m_services->document.undo();
    QCOMPARE(m_services->crate.marksOf(hash).stars, 0);
    m_services->document.undo();
    QVERIFY(m_services->crate.marksOf(hash).tags.empty());
    m_services->document.undo();
    m_services->document.undo();
    QVERIFY(!cleared(current()->provenance));
    m_services->document.undo();
    QVERIFY(current()->provenance == Provenance{});
    m_services->document.goToStep(5); // all of it again, at once
    QVERIFY(cleared(current()->provenance) && m_services->crate.marksOf(hash).stars == 4);
    // And by the keyboard, over the ends.
    for (int n = 0; n < 3; ++n)
      QTest::keyClick(m_window.get(), Qt::Key_Up, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(m_services->crate.marksOf(hash).stars, 5);
    QTest::keyClick(m_window.get(), Qt::Key_Down, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(m_services->crate.marksOf(hash).stars, 4);
    QCOMPARE(combo("Stars")->currentIndex(), 4);
  }

  void sourcesAreRemovedWithTheirKeysAndComeBack() {
    m_window->showStage(Stage::Crate);
    const Project before = project();
    selectSource(*m_services, sourceNamed("pier nine break"));
    const Id gone = m_services->document.selection().source;
    press(button(stage(), "Remove"));
    QVERIFY(!findSource(project(), gone));
    for (const auto& key : project().keys) QVERIFY(key.sound.source != gone);
    m_services->document.undo();
    QVERIFY(project() == before);
  }

  void theReachMapChoosesAndPlaysWhatIsClicked() {
    m_window->showStage(Stage::Crate);
    auto* map = find<ReachMap>(Stage::Crate);
    QSet<Id> found;
    for (int y = 4; y < map->height(); y += 8)
      for (int x = 4; x < map->width(); x += 8) {
        click(map, QPointF(x, y));
        if (!m_services->auditions.heard().hash.empty())
          found.insert(m_services->document.selection().source);
      }
    QCOMPARE(found.size(), 2); // the field recording has no place among tempos and keys
    m_services->auditions.end();
    map->setFocus();
    QTest::keyClick(map, Qt::Key_Right);
    QVERIFY(!m_services->auditions.heard().hash.empty()); // by keyboard too
    m_services->auditions.end();
  }

  void enterHearsAndTheNextFollows() {
    m_window->showStage(Stage::Crate);
    selectSource(*m_services, sourceNamed("lantern row"));
    list()->setFocus();
    QTest::keyClick(list(), Qt::Key_Return);
    QVERIFY(m_services->auditions.heard().hash == current()->hash);
    EVENTUALLY(m_services->auditions.heard().sounding);
    QTest::keyClick(list(), Qt::Key_Down);
    QVERIFY(m_services->auditions.heard().hash == current()->hash);
    QTest::keyClick(list(), Qt::Key_Return);
    QVERIFY(m_services->auditions.heard().hash.empty());
  }

  // ---- the crate ----

  void aFolderIsHeardAndWhatFitsStandsFirst() {
    fillCrate();
    EVENTUALLY_IS(rows(), 3);
    EVENTUALLY_IS(rowName(0), QString("near drums")); // the beat runs at 85
    combo("Order")->setCurrentIndex(int(CrateOrder::Tempo));
    EVENTUALLY_IS(names(), (QStringList{"slow drums", "near drums", "quick drums"}));
    auto* search = find<SearchLine>(Stage::Crate);
    search->setWords("is break beat bpm");
    EVENTUALLY_IS(names(), QStringList{"near drums"});
    search->setWords("quick 140 bpm");
    EVENTUALLY_IS(names(), QStringList{"quick drums"});
    search->setWords("nothing like it");
    EVENTUALLY_IS(rows(), 0);
  }

  void theSearchIsReachedAndLeftByKeyboard() {
    fillCrate();
    auto* words = field("Search the crate");
    find<SearchLine>(Stage::Crate)->focusWords();
    QTest::keyClicks(words, "slow");
    EVENTUALLY_IS(names(), QStringList{"slow drums"});
    QTest::keyClick(words, Qt::Key_Down);
    QVERIFY(list()->hasFocus());
    words->setFocus();
    QTest::keyClick(words, Qt::Key_Escape);
    EVENTUALLY_IS(rows(), 3);
  }

  void keepTakesItIntoTheBeatOnce() {
    fillCrate();
    const auto before = project().sources.size();
    choose("quick drums");
    press(button(stage(), "Take it into the beat"));
    EVENTUALLY_IS(project().sources.size(), before + 1);
    QVERIFY(project().sources.back()->heard && project().sources.back()->sound);
    settle();
    press(button(stage(), "Take it into the beat"));
    settle();
    QCOMPARE(project().sources.size(), before + 1);
    m_services->document.undo();
    QCOMPARE(project().sources.size(), before);
  }

  void correctionsInTheCrateAreKeptByContent() {
    fillCrate();
    choose("slow drums");
    press(button(stage(), "×2"));
    const auto row = [&] {
      const auto found = m_services->crate.crate()->find(readQuery("slow"), CrateOrder::Name, {});
      return **m_services->crate.crate()->row(found->ids[0]);
    };
    QVERIFY(std::abs(row().tempo->value - 156) < 0.1);
    QCOMPARE(row().bars, 8);
    // The same sound comes into the beat from somewhere else: what was said of it comes along.
    m_services->sources.importFiles(
        {QString::fromStdString(pathIn(*m_sounds, "slow drums.wav").string())});
    EVENTUALLY(project().sources.back()->name == "slow drums");
    QVERIFY(std::abs(gridOf(*project().sources.back())->tempo.value - 156) < 0.1);
    m_services->document.undo(); // the import
    m_services->document.undo(); // the correction
    QVERIFY(std::abs(row().tempo->value - 78) < 0.1);
    m_services->document.redo();
    QVERIFY(std::abs(row().tempo->value - 156) < 0.1);
  }

  void tapsInTheCrateAreOneStep() {
    fillCrate();
    choose("near drums");
    const auto before = m_services->document.history().place();
    const double bpm = tapFor(6, 500);
    const auto tempo = [&] {
      const auto found = m_services->crate.crate()->find(readQuery("near"), CrateOrder::Name, {});
      return (*m_services->crate.crate()->row(found->ids[0]))->tempo->value;
    };
    QVERIFY(std::abs(tempo() / bpm - 1) < 0.1);
    QCOMPARE(m_services->document.history().place(), before + 1);
    m_services->document.undo();
    QVERIFY(std::abs(tempo() - 86) < 0.1);
    m_services->document.redo();
    QVERIFY(std::abs(tempo() / bpm - 1) < 0.1);
  }

  void whatIsSaidInTheBeatIsKnownInTheCrate() {
    fillCrate();
    choose("near drums");
    press(button(stage(), "Take it into the beat"));
    EVENTUALLY(project().sources.back()->name == "near drums");
    settle();
    press(button(stage(), "This beat"));
    choose("near drums");
    press(button(stage(), "÷2"));
    const auto found =
        m_services->crate.crate()->find(readQuery("near exactly 43 bpm"), CrateOrder::Name, {});
    QCOMPARE(found->ids.size(), std::size_t(1));
  }

  void itIsKnownWhereASourceIsUsed() {
    fillCrate();
    choose("near drums");
    press(button(stage(), "Take it into the beat"));
    EVENTUALLY(project().sources.back()->name == "near drums");
    settle();
    QVERIFY(save(*m_services));
    const auto found = m_services->crate.crate()->find(readQuery("is used"), CrateOrder::Name, {});
    QCOMPARE(found->ids.size(), std::size_t(1));
  }

  void aNewFileInAWatchedFolderIsHeard() {
    fillCrate();
    EVENTUALLY(m_services->crate.watches());
    put("late drums.wav", 100);
    EVENTUALLY_IS(heardRows(), 4);
  }

  void auditionFromTheCrateStaysInPhase() {
    fillCrate();
    m_services->transport.play(0);
    choose("quick drums");
    list()->setFocus();
    QTest::keyClick(list(), Qt::Key_Return);
    EVENTUALLY(m_services->auditions.heard().sounding);
    // Another tempo of the beat: it is brought along, and plays on.
    Project next = project();
    next.tempo = Bpm(96);
    m_services->document.edit("tempo", next);
    EVENTUALLY(m_services->auditions.heard().sounding);
    m_services->transport.stop();
    m_services->auditions.end();
  }

  // ---- the service ----

  void theServiceIsSearchedAndAnItemGot() {
    m_window->showStage(Stage::Crate);
    press(button(stage(), "Service"));
    QVERIFY(rows() >= 10);
    auto* search = find<SearchLine>(Stage::Crate);
    search->setWords("is uncleared"); // what figures answer is answered here as in the crate
    EVENTUALLY_IS(rows(), 0);
    search->setWords("is break exactly 92 bpm");
    EVENTUALLY_IS(names(), QStringList{"night shift"});
    search->setWords("tag guitar");
    EVENTUALLY_IS(names(), QStringList{"wet rope"});
    press(button(stage(), "Get"));
    EVENTUALLY_IS(heardRows(), 1);
    const auto found =
        m_services->crate.crate()->find(readQuery("is cleared tag guitar"), CrateOrder::Name, {});
    QCOMPARE(found->ids.size(), std::size_t(1));
    const auto item = **m_services->crate.crate()->item(found->ids[0]);
    QVERIFY(item.source.provenance.recording == Permission::OpenLicence);
    QVERIFY(!item.source.provenance.note.empty());
    press(button(stage(), "Get")); // once more is no second copy
    settle();
    QCOMPARE(heardRows(), 1);
  }

  void theServicePreviewsInContext() {
    m_window->showStage(Stage::Crate);
    press(button(stage(), "Service"));
    press(button(stage(), "Play in the beat"));
    EVENTUALLY(m_services->auditions.heard().sounding);
    press(button(stage(), "Play in the beat"));
    QVERIFY(m_services->auditions.heard().hash.empty());
  }

  void everyScopeIsPaintedInEveryState() {
    fillCrate();
    for (const char* scope : {"This beat", "Everything", "Service"}) {
      press(button(stage(), scope));
      for (int row = 0; row < rows(); ++row) {
        list()->setCurrentIndex(list()->model()->index(row, 0));
        QVERIFY(!stage().grab().isNull());
      }
    }
    press(button(stage(), "Rights and origin"));
    QVERIFY(!stage().grab().isNull());
  }
};

QTEST_MAIN(TestCrateStage)
#include "tst_crate_stage.moc"
