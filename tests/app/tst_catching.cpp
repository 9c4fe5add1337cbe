// Catching sound through the real window, with the inputs that ship.
#include "app/demo_window.h"
#include "audio/encode.h"
#include "catch/caught_strip.h"
#include "catch/take_file.h"
#include "choose.h"
#include "patience.h"
#include "shell/devices_window.h"

#include <QFile>

using namespace tuvvo;
using namespace tuvvo::test;

class TestCatching : public QObject, private DemoWindow {
  Q_OBJECT

  CatchService& service() { return m_services->catching; }
  KeysStage& stage() { return static_cast<KeysStage&>(m_window->view(Stage::Keys)); }
  CatchPanel& panel() { return stage().catching(); }
  QStringList m_said;

  void show() {
    m_window->showStage(Stage::Keys);
    stage().showPanel("catch");
    connect(m_services.get(), &Services::message, this,
            [this](const QString& text, bool) { m_said << text; });
    m_said.clear();
    QCoreApplication::processEvents();
  }
  bool said(const QString& part) { return !m_said.filter(part).isEmpty(); }
  void chooseIn(Combo* combo, int which) {
    combo->setCurrentIndex(which);
    emit combo->activated(which);
    QCoreApplication::processEvents();
  }
  void chooseInput(InputChoice choice) {
    chooseIn(named<Combo>(panel(), "Input"), int(choice));
    QVERIFY(m_services->player.liveSound().choice().input == choice);
  }
  /// Hits a while apart, each of its own pitch, with hiss under them.
  QString hitsFile(int count, double apart, const char* name) {
    Samples all(std::size_t((1 + count * apart) * 48000));
    Random random(8);
    for (int i = 0; i < count; ++i)
      addHit(all, 0.6 + i * apart, 48000, i % 2 ? 210 + 40 * i : 55 + 4 * i, i % 2 ? 0.8 : 0.1,
             0.5);
    for (float& v : all) v += float(2e-4 * random.bipolar());
    const auto path = pathIn(m_dir, name);
    (void)encodeFile(*makeSound(std::move(all)), path, {FileFormat::Wav, SampleFormat::Float32});
    return QString::fromStdString(path.string());
  }
  std::size_t sources() { return project().sources.size(); }

private slots:
  void initTestCase() { prepare(); }
  void init() {
    QVERIFY(openDemo());
    show();
  }
  void cleanup() { closeDemo(); }

  void withoutAnInputItSaysSo() {
    QVERIFY(!service().listens());
    press(button(panel(), "Catch"));
    QVERIFY(!service().catching());
    QVERIFY(said("Choose an input"));
    QVERIFY(panel().findChild<InputStrip*>()->advice().contains("No input"));
    chooseInput(InputChoice::Device); // the simulated output has none
    QVERIFY(said("Choose a simulated input"));
  }

  void barsAreCutToTheFrameOnceLatencyIsMeasured() {
    chooseInput(InputChoice::Cable);
    QVERIFY(!service().measured());
    press(button(panel(), "Measure latency"));
    QVERIFY(service().measuring());
    EVENTUALLY(service().measured().has_value());
    const int block = m_services->player.liveSound().device()->blockFrames();
    QCOMPARE(*service().measured(),
             std::int64_t(block + SimulatedInput::kCable + Limiter::kLatency));
    QVERIFY(said("There and back takes"));
    // What goes out comes in: two bars of the pattern, from its first frame on.
    emit slide(panel(), "Bars to catch")->changed(1, true);
    QCOMPARE(service().settings().bars, 1);
    Transport::Click click = m_services->transport.click();
    click.countIn = 1;
    m_services->transport.setClick(click);
    const std::size_t before = sources();
    press(button(panel(), "Catch"));
    QVERIFY(service().catching());
    QVERIFY(m_services->transport.positionBeats() < 0.1); // counted in
    EVENTUALLY(sources() == before + 1);
    QVERIFY(!service().catching());
    m_services->transport.stop();
    const Source& caught = *project().sources.back();
    const double bar = 4 * m_services->player.score()->tempo.framesPerBeat(kEngineRate);
    QCOMPARE(caught.sound->frames().value, std::int64_t(std::llround(bar)));
    QVERIFY(caught.corrections.tempo == project().tempo);
    QVERIFY(caught.corrections.downbeat == Seconds(0));
    QVERIFY(QString::fromStdString(caught.provenance.from).contains("Simulated cable"));
    QVERIFY(QString::fromStdString(caught.provenance.note).contains("(measured)"));
    QVERIFY(QFile::exists(QString::fromStdString(caught.origin)));
    // It is what the engine played: the same bar, printed, lies under it frame by frame.
    JobContext job;
    CompileOptions options;
    const Score score =
        compilePattern(project(), m_services->document.selection().pattern, options);
    const auto printed = print(score, {}, job);
    QVERIFY(printed.ok());
    double xy = 0, xx = 1e-12, yy = 1e-12;
    for (std::size_t i = 2000; i < std::size_t(bar) - 2000; ++i) {
      const double a = double(caught.sound->channel(0)[i]), b = double((*printed)->channel(0)[i]);
      xy += a * b;
      xx += a * a;
      yy += b * b;
    }
    QVERIFY2(xy / std::sqrt(xx * yy) > 0.9, qPrintable(QString::number(xy / std::sqrt(xx * yy))));
    // It is in the crate, and a step of undo.
    const auto known = [&] {
      const auto id = m_services->crate.crate()->idOf(caught.hash);
      return id.ok() && *id != 0;
    };
    EVENTUALLY(known());
    m_services->document.undo();
    QCOMPARE(sources(), before);
  }

  void eightHitsFromTheLineLieOnKeys() {
    chooseInput(InputChoice::Line);
    m_services->reel.playFile(hitsFile(8, 0.5, "hits.wav"));
    EVENTUALLY_IS(m_services->reel.name(), QString("hits"));
    press(button(panel(), "Single sounds"));
    const std::size_t before = project().keys.size();
    press(button(panel(), "Catch"));
    EVENTUALLY(!std::isinf(service().now().floor.value) || service().now().frames > 48000);
    press(button(panel(), "Start it"));
    // The line begins anew at its end; on a busy machine more than eight have been caught by now.
    EVENTUALLY(project().keys.size() >= before + 8);
    press(button(panel(), "Stop it"));
    press(button(panel(), "End catching"));
    QVERIFY(!service().catching());
    const std::size_t caught = project().keys.size();
    std::set<std::string> sounds;
    for (std::size_t i = before; i < before + 8; ++i) {
      const Key& key = project().keys[i];
      const Source& source = *findSource(project(), key.sound.source);
      sounds.insert(source.hash);
      QVERIFY(source.sound->duration().value < 0.4);
      QVERIFY(QString::fromStdString(source.provenance.from).contains("Simulated line"));
      QVERIFY(QFile::exists(QString::fromStdString(source.origin)));
    }
    QCOMPARE(sounds.size(), std::size_t(8));
    m_services->document.undo(); // the last hit alone
    QCOMPARE(project().keys.size(), caught - 1);
  }

  void aSourceOfTheCratePlaysIntoTheLine() {
    m_window->showStage(Stage::Crate);
    auto& crate = m_window->view(Stage::Crate);
    for (QAction* action : crate.actions())
      if (action->text() == "Play it into the simulated line") action->trigger();
    QVERIFY(m_services->player.liveSound().choice().input == InputChoice::Line);
    QVERIFY(m_services->reel.runs());
    EVENTUALLY(service().level().held[0] > 0.01f);
    QVERIFY(said("plays into the simulated line"));
  }

  void theStripShowsLevelAndClips() {
    chooseInput(InputChoice::Line);
    m_services->reel.playSound("tone", makeSound(sine(300, 20, 48000, 0.5)));
    LineSettings settings;
    settings.level = Decibels(-6);
    m_services->reel.set(settings);
    m_services->reel.start();
    EVENTUALLY(std::abs(service().level().held[0] - 0.25f) < 0.01f);
    EVENTUALLY(std::abs(20 * std::log10(double(service().level().rms[0])) + 15.05) < 0.3);
    auto* strip = panel().findChild<InputStrip*>();
    EVENTUALLY(strip->advice().contains("good"));
    settings.level = Decibels(12);
    m_services->reel.set(settings);
    EVENTUALLY(service().level().clips > 0);
    QVERIFY(strip->advice().contains("clipped"));
    settings.level = Decibels(-40);
    m_services->reel.set(settings);
    EVENTUALLY(service().level().rms[0] < 0.1); // it comes in softly now
    click(strip, {20, 20});                     // forget what was
    EVENTUALLY_IS(service().level().clips, 0u);
    EVENTUALLY(strip->advice().contains("up by"));
  }

  void theInputIsHeardThroughAKey() {
    chooseInput(InputChoice::Line);
    const Id key = project().keys.front().id;
    selectKey(*m_services, key);
    m_services->document.edit("test", withKeyChanged(project(), key, [](Key& k) {
                                k.lowPass = Hertz(400);
                                k.level = Decibels(-6);
                              }));
    QVERIFY(!m_services->player.score()->monitor.on);
    chooseIn(named<Combo>(panel(), "Hear the input"), int(CatchService::Hear::Through));
    QVERIFY(m_services->player.score()->monitor.on);
    QCOMPARE(m_services->player.score()->monitor.filters.low.corner, 400.0);
    QVERIFY(!m_services->player.score()->monitor.prints); // dry unless it is asked for
    press(button(panel(), "Print the effect"));
    QVERIFY(m_services->player.score()->monitor.prints);
    chooseIn(named<Combo>(panel(), "Hear the input"), int(CatchService::Hear::Direct));
    QCOMPARE(m_services->player.score()->monitor.filters.low.corner, 0.0);
    QVERIFY(!m_services->player.score()->monitor.prints);
    QVERIFY(m_services->player.score()->monitor.on);
    chooseInput(InputChoice::Cable); // what goes out must not go round
    QVERIFY(!m_services->player.score()->monitor.on);
  }

  void aLongTakeIsSiftedKeptAndDropped() {
    chooseInput(InputChoice::Line);
    // Two phrases, the second at the beat's own tempo, with a rest between.
    const double beat = 60 / project().tempo.value;
    Samples all(48000 * 13);
    for (int i = 0; i < 14; ++i) addHit(all, 0.4 + i * 0.31, 48000, i % 2 ? 220 : 60, 0.5, 0.4);
    for (int i = 0; i < 16; ++i)
      addHit(all, 6 + i * beat / 2, 48000, i % 4 == 2 ? 200 : 60, i % 4 == 2 ? 0.9 : 0.2, 0.4);
    m_services->reel.playSound("phrases", makeSound(std::move(all)));
    press(button(panel(), "Long take"));
    press(button(panel(), "Catch"));
    press(button(panel(), "Start it"));
    EVENTUALLY(service().now().frames > 48000 * 12.5);
    QVERIFY(service().state().contains("on disc"));
    press(button(panel(), "End catching"));
    PhraseService& sifter = m_services->sifter;
    EVENTUALLY_IS(sifter.rows().size(), std::size_t(2));
    EVENTUALLY(!sifter.sifting());
    QCOMPARE(sifter.takes().size(), std::size_t(1));
    // What fits the beat stands first.
    QVERIFY(sifter.rows()[0].phrase.start > sifter.rows()[1].phrase.start);
    QVERIFY(sifter.rows()[0].cost < sifter.rows()[1].cost);
    PhraseView& view = panel().sifter();
    QCOMPARE(view.list().count(), 2);
    QCOMPARE(view.list().currentRow(), 0);
    sifter.setOrder(PhraseService::Order::Time);
    QVERIFY(sifter.rows()[0].phrase.start < sifter.rows()[1].phrase.start);
    sifter.setOrder(PhraseService::Order::Fit);
    view.list().setCurrentRow(0);
    press(button(view, "Hear"));
    EVENTUALLY(m_services->auditions.heard().sounding);
    m_services->auditions.end();
    press(button(view, "Star"));
    QVERIFY(sifter.rows()[0].starred);
    const std::size_t before = sources();
    press(button(view, "Keep the starred"));
    EVENTUALLY_IS(sources(), before + 1);
    QVERIFY(sifter.rows()[0].kept && !sifter.rows()[1].kept);
    const Source& kept = *project().sources.back();
    QVERIFY(QString::fromStdString(kept.provenance.note).contains("take "));
    QVERIFY(QString::fromStdString(kept.provenance.from).contains("Simulated line"));
    const QString take = QString::fromStdString(sifter.path().string());
    QVERIFY(QFile::exists(take));
    press(button(view, "Remove the rest"));
    QVERIFY(!QFile::exists(take));
    QVERIFY(sifter.takes().empty());
    QVERIFY(QFile::exists(QString::fromStdString(kept.origin)));
    press(button(view, "Restore the take"));
    QVERIFY(QFile::exists(take));
    EVENTUALLY_IS(sifter.rows().size(), std::size_t(2));
  }

  void aTakeThatWasCutOffIsFoundAtTheNextStart() {
    auto take =
        std::move(TakeFile::begin(service().takesFolder(), {"a microphone", "now", "dry"})).value();
    const Samples tone = sine(300, 1.5, 48000);
    QVERIFY(take->write(tone.data(), tone.data(), int(tone.size())).ok());
    take.reset(); // without an end
    m_services->sifter.look(true);
    QVERIFY(said("had not come to its end"));
    m_services->sifter.open(m_services->sifter.takes().front().path);
    EVENTUALLY_IS(m_services->sifter.rows().size(), std::size_t(1));
    m_said.clear();
    m_services->sifter.look(true);
    QVERIFY(!said("had not come to its end")); // the person knows now
  }

  void whatIsCaughtWhenTheWindowClosesIsKept() {
    chooseInput(InputChoice::Line);
    m_services->reel.playSound("tone", makeSound(sine(300, 20, 48000, 0.3)));
    m_services->reel.start();
    press(button(panel(), "Long take"));
    press(button(panel(), "Catch"));
    EVENTUALLY(service().now().frames > 48000);
    m_window->close();
    const auto takes = takesIn(service().takesFolder());
    QVERIFY(!takes.empty());
    QVERIFY(takes.front().whole);
    QVERIFY(takes.front().length.value >= 1);
  }

  void devicesAreChosenAndRemembered() {
    DevicesWindow& devices = m_window->devices();
    press(button(panel(), "Devices…"));
    QVERIFY(devices.isVisible());
    QVERIFY(!devices.isModal());
    chooseIn(named<Combo>(devices, "Sound server"), int(OutputChoice::Simulated));
    auto* block = named<Combo>(devices, "Block");
    chooseIn(block, block->findText("512", Qt::MatchStartsWith));
    chooseIn(named<Combo>(devices, "Input"), int(InputChoice::Microphone));
    QCOMPARE(m_services->player.liveSound().device()->blockFrames(), 512);
    EVENTUALLY(m_services->player.engine().input().frames() > 4800);
    bool shown = false;
    for (auto* label : devices.findChildren<Label*>())
      shown = shown || label->text().contains("Simulated microphone");
    QVERIFY(shown);
    QTest::keyClick(&devices, Qt::Key_Escape);
    QVERIFY(!devices.isVisible());
    SoundMemory memory; // as the next start reads it
    QVERIFY(memory.choice() == m_services->player.liveSound().choice());
    QCOMPARE(memory.choice().blockFrames, 512);
    // A file that cannot be read is left alone, and said.
    QFile file(m_dir.path() + "/tuvvo/sound.json");
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("not at all");
    file.close();
    SoundMemory broken;
    QVERIFY(!broken.takeTrouble().empty());
    broken.keepChoice(memory.choice());
    QVERIFY(file.open(QIODevice::ReadOnly));
    QCOMPARE(file.readAll(), QByteArray("not at all"));
    file.remove();
  }

  void theSimulatedControllerHasItsPanel() {
    stage().showPanel("controllers");
    QCoreApplication::processEvents();
    auto* controllers = stage().findChild<ControllersPanel*>();
    ControllerService& hub = m_services->controllers;
    EVENTUALLY(hub.hub().sourceOf(MidiHub::simulatedName()) > 0);
    EVENTUALLY(controllers->findChild<QListWidget*>()->count() >= 1);
    chooseIn(named<Combo>(*controllers, "What its notes play"), int(NoteLayout::Deck));
    QVERIFY(hub.settings(MidiHub::simulatedName()).layout == NoteLayout::Deck);
    press(button(*controllers, "Fit velocities"));
    QVERIFY(hub.learning().contains("Play it 7"));
    press(button(*controllers, "Stop teaching"));
    QVERIFY(hub.learning().isEmpty());
    press(button(*controllers, "Used"));
    QVERIFY(!hub.settings(MidiHub::simulatedName()).wanted);
    press(button(*controllers, "Used"));
    chooseIn(named<Combo>(*controllers, "What its notes play"), int(NoteLayout::Percussion));
    EVENTUALLY(hub.hub().sourceOf(MidiHub::simulatedName()) > 0);
    emit slide(*controllers, "Bars it plays")->changed(1, true);
    press(button(*controllers, "Play it"));
    QVERIFY(hub.hub().simulated().playing());
    EVENTUALLY(!hub.lastOf(MidiHub::simulatedName()).isEmpty());
    hub.hub().simulated().stop();
  }

  void aWholeEvening() {
    // Taught: a pad of the simulated controller plays the kick.
    ControllerService& hub = m_services->controllers;
    EVENTUALLY(hub.hub().sourceOf(MidiHub::simulatedName()) > 0);
    SimulatedController& pads = hub.hub().simulated();
    const Key* kick = keyAt(project(), Row::Floor, 0, 0);
    const Id kickId = kick->id;
    selectKey(*m_services, kickId);
    stage().showPanel("controllers");
    QCoreApplication::processEvents();
    auto* controllers = stage().findChild<ControllersPanel*>();
    press(button(*controllers, "Teach " + QString::fromStdString(nameOf(project(), *kick))));
    pads.send({MidiKind::NoteOn, 0, 60, 100});
    EVENTUALLY(hub.learning().isEmpty());
    pads.send({MidiKind::NoteOff, 0, 60, 0});
    // Played, and overdubbed: each pass is a step.
    m_services->document.edit(
        "Empty the pattern",
        withPatternChanged(project(), m_services->document.selection().pattern, [](Pattern& p) {
          p.lanes.clear();
          p.bars = 1;
        }));
    const auto hits = [&] {
      std::size_t count = 0;
      for (const auto& lane :
           findPattern(project(), m_services->document.selection().pattern)->lanes)
        count += lane.hits.size();
      return count;
    };
    Transport::Click click = m_services->transport.click();
    click.countIn = 0;
    m_services->transport.setClick(click);
    const auto strikeAt = [&](double beat, int note) {
      EVENTUALLY(double(m_services->player.engine().absolutePosition().value) >=
                 beat * m_services->player.score()->tempo.framesPerBeat(kEngineRate));
      QSignalSpy struck(&m_services->player, &Player::struck);
      pads.send({MidiKind::NoteOn, 0, note, 100});
      EVENTUALLY_IS(struck.size(), 1);
      pads.send({MidiKind::NoteOff, 0, note, 0});
    };
    m_services->recorder.toggleRecord();
    strikeAt(0.5, 60);
    strikeAt(2.5, 60);
    strikeAt(4 + 1.5, 38); // the second time round, over the first
    strikeAt(8 + 0.2, 38);
    m_services->recorder.toggleRecord();
    m_services->transport.stop();
    EVENTUALLY_IS(hits(), std::size_t(4));
    m_services->document.undo(); // the third pass
    QCOMPARE(hits(), std::size_t(3));
    m_services->document.undo(); // the second
    QCOMPARE(hits(), std::size_t(2));
    m_services->document.redo();
    QCOMPARE(hits(), std::size_t(3));
    // Played without recording, and caught.
    m_services->transport.play(0);
    strikeAt(1, 42);
    strikeAt(3, 42);
    m_services->transport.stop();
    m_services->recorder.catchThat();
    QVERIFY(hits() >= 5);
    // Eight sounds from the line, onto keys.
    stage().showPanel("catch");
    QCoreApplication::processEvents();
    chooseInput(InputChoice::Line);
    m_services->reel.playFile(hitsFile(8, 0.4, "evening.wav"));
    EVENTUALLY_IS(m_services->reel.name(), QString("evening"));
    const std::size_t keys = project().keys.size();
    press(button(panel(), "Single sounds"));
    press(button(panel(), "Catch"));
    EVENTUALLY(service().now().frames > 24000);
    press(button(panel(), "Start it"));
    EVENTUALLY(project().keys.size() >= keys + 8);
    m_services->reel.stop();
    press(button(panel(), "End catching"));
    // Saved, closed, opened: all of it is there.
    QVERIFY(saveAs(*m_services, m_dir.path() + "/Evening.tuvvo"));
    const Project before = project();
    closeDemo();
    QVERIFY(openDemo());
    m_services->files.open(m_dir.path() + "/Evening.tuvvo");
    settle();
    QCOMPARE(project().keys.size(), before.keys.size());
    QCOMPARE(project().patterns.size(), before.patterns.size());
    std::size_t hitsNow = 0, hitsBefore = 0;
    for (const auto& pattern : project().patterns)
      for (const auto& lane : pattern->lanes) hitsNow += lane.hits.size();
    for (const auto& pattern : before.patterns)
      for (const auto& lane : pattern->lanes) hitsBefore += lane.hits.size();
    QCOMPARE(hitsNow, hitsBefore);
    QVERIFY(m_services->controllers.settings(MidiHub::simulatedName()).notes.contains(60));
  }

  void caughtSoundsStandAsCardsTheNewestFirst() {
    m_window->showStage(Stage::Keys);
    auto& stage = static_cast<KeysStage&>(m_window->view(Stage::Keys));
    stage.showPanel("catch");
    auto settings = m_services->catching.settings();
    settings.mode = CatchService::Mode::Hits;
    m_services->catching.change(settings);
    auto* strip = stage.findChild<CaughtStrip*>();
    QVERIFY(strip && strip->isVisible());
    const std::size_t before = strip->shown().size();
    for (const char* name : {"bollard", "hawser"}) {
      CatchService::Caught caught;
      caught.sound = makeSound(sine(*name == 'b' ? 200 : 300, 0.3, 48000));
      caught.name = name;
      m_services->catching.add(caught);
    }
    EVENTUALLY_IS(strip->shown().size(), before + 2);
    QVERIFY(strip->shown()[0]->name.starts_with("hawser"));
    QVERIFY(strip->shown()[1]->name.starts_with("bollard"));
    click(strip, strip->cardOf(1).center());
    QCOMPARE(m_services->auditions.heard().hash, strip->shown()[1]->hash);
    QTest::keyClick(strip, Qt::Key_Left);
    QTest::keyClick(strip, Qt::Key_Return);
    QCOMPARE(m_services->auditions.heard().hash, strip->shown()[0]->hash);
    m_services->auditions.end();
    settings.mode = CatchService::Mode::Long; // long takes are sifted in its place
    m_services->catching.change(settings);
    QVERIFY(!strip->isVisible());
  }
};

QTEST_MAIN(TestCatching)
#include "tst_catching.moc"
