#include "picture.h"

#include "formats/shipped.h"
#include "shell/main_window.h"

#include <QCoreApplication>
#include <QElapsedTimer>

namespace tuvvo {

void prepareForPicture(Session& session, const QString& panel) {
  const Project& p = session.project();
  if (p.sections.size() > 2) session.selectSection(p.sections[2].id);
  const bool made = panel == QLatin1String("bass") || panel == QLatin1String("change");
  for (const auto& pattern : p.patterns)
    if (pattern->name == (made ? "Slipway" : "Crossing")) session.selectPattern(pattern->id);
  for (const auto& source : p.sources)
    if (source->cuts.size() > 5) {
      session.selectCut(source->id, source->cuts[5].id);
      break;
    }
}

namespace {

void waitUntil(const std::function<bool()>& done, int atMostMs) {
  QElapsedTimer waited;
  waited.start();
  while (!done() && waited.elapsed() < atMostMs)
    QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
}

/// Notes and measures come from the background; a picture waits for them.
void waitForBackground(Session& session) {
  waitUntil([] { return false; }, 1600);
  waitUntil([&] { return !session.measure().barLoudness.empty(); }, 20000);
  session.waitForJobs();
  waitUntil([] { return false; }, 400);
}

/// A loose hand plays two bars, so that there is something to see of its timing.
void playForPicture(Session& session) {
  auto& hub = session.controllers().hub();
  waitUntil([&] { return hub.sourceOf(MidiHub::simulatedName()) > 0; }, 4000);
  SimulatedController::Player player;
  player.bpm = session.project().tempo.value;
  player.bars = 2;
  player.looseMs = 17;
  player.lateMs = 6;
  player.figure = 1;
  player.leadInS = 4 * 60 / player.bpm; // the count-in
  session.toggleRecord();
  hub.simulated().play(SimulatedController::played(player));
  waitUntil([&] { return !hub.simulated().playing(); }, 20000);
  session.toggleRecord();
  session.stop();
}

/// The panels of Keys that show work are shown at it: a take is played, the simulated microphone is
/// caught, its take is sifted.
void workForPicture(Session& session, const QString& panel) {
  if (panel == QLatin1String("timing")) return playForPicture(session);
  if (panel != QLatin1String("catch") && panel != QLatin1String("sifter")) return;
  SoundChoice sound = session.liveSound().choice();
  sound.input = InputChoice::Microphone;
  session.openSound(sound);
  session.standIn().start();
  auto settings = session.catching().settings();
  settings.way =
      panel == QLatin1String("catch") ? CatchService::Way::Hits : CatchService::Way::Long;
  session.catching().change(settings);
  if (panel == QLatin1String("sifter")) {
    session.sifter().open(dataFolder() / "stand-ins" / "microphone.flac");
    return;
  }
  session.catching().begin();
  waitUntil([&] { return session.catching().now().hits >= 4; }, 12000);
}

} // namespace

bool takePicture(MainWindow& window, Session& session, bool demo, const QString& panel,
                 const QString& path) {
  waitForBackground(session);
  if (demo) workForPicture(session, panel);
  if (panel != QLatin1String("catch")) waitForBackground(session); // that one is of a moment
  (void)window.grab(); // lays everything out; what is to be in sight is scrolled to after that
  QCoreApplication::processEvents();
  return window.grab().save(path);
}

} // namespace tuvvo
