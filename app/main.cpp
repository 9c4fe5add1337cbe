// tuvvo [PROJECT|SOUND...] [--demo] [--stage NAME] [--screenshot OUT.png] [--audio NAME]
#include "formats/shipped.h"
#include "session/session.h"
#include "shell/main_window.h"
#include "shell/rail.h"
#include "theme/theme.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSettings>
#include <cstdio>

using namespace tuvvo;

namespace {

int wrongUse(const QString& what) {
  std::fprintf(stderr, "tuvvo: %s. See tuvvo --help.\n", qPrintable(what));
  return 2;
}

std::optional<Stage> stageFromName(const QString& name) {
  static constexpr std::array names{"crate", "cut", "keys", "beat", "song", "print"};
  for (std::size_t i = 0; i < names.size(); ++i)
    if (name.toLower() == QLatin1String(names[i])) return Stage(i);
  return std::nullopt;
}

/// A picture of the demo is of work in progress: something is chosen, the middle of the song
/// sounds.
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

int main(int argc, char** argv) {
  QElapsedTimer sinceStart;
  sinceStart.start();
  QApplication app(argc, argv);
  QApplication::setApplicationName(QStringLiteral("tuvvo"));
  QApplication::setOrganizationName(QStringLiteral("tuvvo"));
  QApplication::setApplicationVersion(QStringLiteral("0.1"));
  QCommandLineParser parser;
  parser.setApplicationDescription(QStringLiteral("Turns recorded sound into a finished beat."));
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument(QStringLiteral("files"),
                               QStringLiteral("A project folder (.tuvvo) or sounds."));
  const QCommandLineOption demo(QStringLiteral("demo"),
                                QStringLiteral("Open the Salt Quay demonstration."));
  const QCommandLineOption stage(
      QStringLiteral("stage"),
      QStringLiteral("crate, cut, keys, beat, song or print; "
                     "crate/beat, crate/crate, crate/service or crate/papers, "
                     "each with /NAME of a source."),
      QStringLiteral("NAME"));
  const QCommandLineOption screenshot(QStringLiteral("screenshot"),
                                      QStringLiteral("Write a picture of the window and end."),
                                      QStringLiteral("OUT.png"));
  const QCommandLineOption size(QStringLiteral("size"),
                                QStringLiteral("Window size, 1280x800 unless given."),
                                QStringLiteral("WxH"));
  const QCommandLineOption audio(QStringLiteral("audio"),
                                 QStringLiteral("automatic, jack, pulse, alsa or simulated."),
                                 QStringLiteral("NAME"));
  const QCommandLineOption input(QStringLiteral("input"),
                                 QStringLiteral("none, device, line, microphone or cable."),
                                 QStringLiteral("NAME"));
  const QCommandLineOption daylight(QStringLiteral("daylight"),
                                    QStringLiteral("The daylight palette."));
  const QCommandLineOption textScale(QStringLiteral("text-scale"),
                                     QStringLiteral("Size of text in per cent, 80 to 250."),
                                     QStringLiteral("PERCENT"));
  const QCommandLineOption firstPaint(
      QStringLiteral("time-first-paint"),
      QStringLiteral("Print how long the first painted window took, and end."));
  const QCommandLineOption playing(QStringLiteral("play"),
                                   QStringLiteral("Play the pattern at once."));
  parser.addOptions(
      {playing, demo, stage, screenshot, size, audio, input, daylight, textScale, firstPaint});
  parser.process(app);

  Stage shown = Stage::Crate;
  QString panel;
  if (parser.isSet(stage)) {
    panel = parser.value(stage).section(QLatin1Char('/'), 1, -1);
    const auto named = stageFromName(parser.value(stage).section(QLatin1Char('/'), 0, 0));
    if (!named) return wrongUse(QStringLiteral("\"%1\" is no stage").arg(parser.value(stage)));
    shown = *named;
  }
  QSize windowSize(1280, 800);
  if (parser.isSet(size)) {
    const auto parts = parser.value(size).split(QLatin1Char('x'));
    if (parts.size() == 2) windowSize = QSize(parts[0].toInt(), parts[1].toInt());
    if (windowSize.width() < 640 || windowSize.height() < 480 || windowSize.width() > 7680 ||
        windowSize.height() > 4320)
      return wrongUse(QStringLiteral("--size takes WxH from 640x480 to 7680x4320"));
  }
  std::optional<OutputChoice> output; // nothing: as it was chosen before
  if (parser.isSet(screenshot) || parser.isSet(firstPaint)) output = OutputChoice::Simulated;
  if (parser.isSet(audio)) {
    const auto named = outputFromName(parser.value(audio).toStdString());
    if (!named)
      return wrongUse(QStringLiteral("\"%1\" is no sound output").arg(parser.value(audio)));
    output = named;
  }
  // Text scales with the system's own size; ten points is the designed one.
  double scale = parser.isSet(screenshot) ? 1.0 : QApplication::font().pointSizeF() / 10.0;
  if (parser.isSet(textScale)) {
    bool ok = false;
    scale = parser.value(textScale).toDouble(&ok) / 100;
    if (!ok || scale < 0.8 || scale > 2.5)
      return wrongUse(QStringLiteral("--text-scale takes 80 to 250"));
  }
  theme::apply(
      app, parser.isSet(daylight) || QSettings().value(QStringLiteral("daylight"), false).toBool(),
      scale);

  Session session;
  QStringList sounds;
  QString project;
  for (const QString& file : parser.positionalArguments())
    file.endsWith(QLatin1String(".tuvvo")) || file.endsWith(QLatin1String(".tuvvo/"))
        ? void(project = file)
        : void(sounds << file);
  MainWindow window(session);
  window.resize(windowSize);
  const bool asked = parser.isSet(demo) || !project.isEmpty() || !sounds.isEmpty();
  if (parser.isSet(demo))
    session.startDemo();
  else if (asked)
    session.startNew(); // a project takes its place when it is read
  else
    session.startWhereYouLeft();
  if (session.project().patterns.empty())
    session.startNew(); // the demo could not be read; the message says why
  if (!project.isEmpty()) session.open(project);
  if (asked && !parser.isSet(screenshot)) session.offerUnsaved();
  window.showStage(shown);
  if (parser.isSet(screenshot)) { // of the project that was asked for
    session.waitForJobs();
    QCoreApplication::processEvents();
  }
  if (parser.isSet(screenshot) && parser.isSet(demo)) prepareForPicture(session, panel);
  if (!panel.isEmpty() && !window.showPanel(shown, panel))
    return wrongUse(QStringLiteral("\"%1\" is no panel of that stage").arg(panel));
  SoundChoice sound = session.soundMemory().choice();
  if (output) sound.server = *output;
  if (parser.isSet(screenshot)) sound.input = InputChoice::None;
  if (parser.isSet(input)) {
    const auto named = inputFromName(parser.value(input).toStdString());
    if (!named) return wrongUse(QStringLiteral("\"%1\" is no input").arg(parser.value(input)));
    sound.input = *named;
  }
  session.openSound(sound);
  session.prepareCrate();
  session.sifter().look(true);
  session.importFiles(sounds);
  if (parser.isSet(playing)) session.play();
  window.show();

  if (parser.isSet(firstPaint)) {
    window.grab();
    std::printf("%lld ms\n", static_cast<long long>(sinceStart.elapsed()));
    return 0;
  }
  if (parser.isSet(screenshot)) {
    waitForBackground(session);
    if (parser.isSet(demo)) workForPicture(session, panel);
    if (panel != QLatin1String("catch")) waitForBackground(session); // that one is of a moment
    (void)window.grab(); // lays everything out; what is to be in sight is scrolled to after that
    QCoreApplication::processEvents();
    if (!window.grab().save(parser.value(screenshot))) {
      std::fprintf(stderr, "tuvvo: the picture cannot be written to %s.\n",
                   qPrintable(parser.value(screenshot)));
      return 1;
    }
    return 0;
  }
  return QApplication::exec();
}
