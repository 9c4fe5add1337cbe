#include "picture.h"

#include "formats/shipped.h"
#include "shell/main_window.h"

#include <QCoreApplication>
#include <QElapsedTimer>

namespace tuvvo {

void prepareForPicture(Services& services, const QString& panel) {
  const Project& p = services.document.project();
  if (p.sections.size() > 2)
    services.document.select(withSectionChosen(services.document.selection(), p, p.sections[2].id));
  const bool made = panel == QLatin1String("bass") || panel == QLatin1String("change");
  for (const auto& pattern : p.patterns)
    if (pattern->name == (made ? "Slipway" : "Crossing"))
      services.document.select(withPatternChosen(services.document.selection(), pattern->id));
  for (const auto& source : p.sources)
    if (source->cuts.size() > 5) {
      services.document.select(
          withCutChosen(services.document.selection(), p, source->id, source->cuts[5].id));
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
void waitForBackground(Services& services) {
  waitUntil([] { return false; }, 1600);
  waitUntil([&] { return !services.meter.measure().barLoudness.empty(); }, 20000);
  services.wait();
  waitUntil([] { return false; }, 400);
}

/// A loose hand plays two bars, so that there is something to see of its timing.
void playForPicture(Services& services) {
  auto& hub = services.controllers.hub();
  waitUntil([&] { return hub.sourceOf(MidiHub::simulatedName()) > 0; }, 4000);
  SimulatedController::Player player;
  player.bpm = services.document.project().tempo.value;
  player.bars = 2;
  player.looseMs = 17;
  player.lateMs = 6;
  player.figure = 1;
  player.leadInS = 4 * 60 / player.bpm; // the count-in
  services.recorder.toggleRecord();
  hub.simulated().play(SimulatedController::played(player));
  waitUntil([&] { return !hub.simulated().playing(); }, 20000);
  services.recorder.toggleRecord();
  services.transport.stop();
}

/// The panels of Keys that show work are shown at it: a take is played, the simulated microphone is
/// caught, the phrases of its take are found.
void workForPicture(Services& services, const QString& panel) {
  if (panel == QLatin1String("timing")) return playForPicture(services);
  if (panel != QLatin1String("catch") && panel != QLatin1String("sifter")) return;
  SoundChoice sound = services.player.liveSound().choice();
  sound.input = InputChoice::Microphone;
  services.player.openSound(sound);
  services.reel.start();
  auto settings = services.catching.settings();
  settings.mode =
      panel == QLatin1String("catch") ? CatchService::Mode::Hits : CatchService::Mode::Long;
  services.catching.change(settings);
  if (panel == QLatin1String("sifter")) {
    services.sifter.open(dataFolder() / "stand-ins" / "microphone.flac");
    return;
  }
  services.catching.begin();
  waitUntil([&] { return services.catching.now().hits >= 4; }, 12000);
}

} // namespace

bool takePicture(MainWindow& window, Services& services, bool demo, const QString& panel,
                 const QString& path) {
  waitForBackground(services);
  if (demo) workForPicture(services, panel);
  if (panel != QLatin1String("catch")) waitForBackground(services); // that one is of a moment
  (void)window.grab(); // lays everything out; what is to be in sight is scrolled to after that
  QCoreApplication::processEvents();
  return window.grab().save(path);
}

} // namespace tuvvo
