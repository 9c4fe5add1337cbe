// tuvvo [PROJECT|SOUND...] [--demo] [--stage NAME] [--screenshot OUT.png] [--audio NAME]
#include "formats/shipped.h"
#include "options.h"
#include "picture.h"
#include "shell/main_window.h"
#include "theme/theme.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QIcon>
#include <QSettings>
#include <cstdio>

using namespace tuvvo;

namespace {

int wrongUse(const std::string& what) {
  std::fprintf(stderr, "tuvvo: %s. See tuvvo --help.\n", what.c_str());
  return 2;
}

void dress(QApplication& app, const Options& options) {
  // Text scales with the system's own size; ten points is the designed one.
  const double system = options.picture.isEmpty() ? QApplication::font().pointSizeF() / 10.0 : 1.0;
  theme::apply(app,
               options.daylight || QSettings().value(QStringLiteral("daylight"), false).toBool(),
               options.textScale.value_or(system));
  QIcon icon = QIcon::fromTheme(QStringLiteral("org.tuvvo.Tuvvo"));
  if (icon.isNull()) {
    const auto icons = dataFolder() / "icons";
    for (int size : {16, 24, 32, 48, 64, 128, 256})
      icon.addFile(QString::fromStdString((icons / (std::to_string(size) + ".png")).string()));
  }
  QApplication::setWindowIcon(icon);
}

/// What was asked for, or what there was last.
void openWhatIsAsked(Session& session, const Options& options) {
  const bool asked = options.demo || !options.project.isEmpty() || !options.sounds.isEmpty();
  if (options.demo)
    session.startDemo();
  else if (asked)
    session.startNew(); // a project takes its place when it is read
  else
    session.startWhereYouLeft();
  if (session.project().patterns.empty())
    session.startNew(); // the demo could not be read; the message says why
  if (!options.project.isEmpty()) session.open(options.project);
  if (asked && options.picture.isEmpty()) session.offerUnsaved();
}

void openSound(Session& session, const Options& options) {
  SoundChoice sound = session.soundMemory().choice();
  if (options.output) sound.server = *options.output;
  if (options.input) sound.input = *options.input;
  session.openSound(sound);
}

} // namespace

int main(int argc, char** argv) {
  QElapsedTimer sinceStart;
  sinceStart.start();
  QApplication app(argc, argv);
  QApplication::setApplicationName(QStringLiteral("tuvvo"));
  QApplication::setOrganizationName(QStringLiteral("tuvvo"));
  QApplication::setApplicationVersion(QStringLiteral(TUVVO_VERSION));
  QGuiApplication::setDesktopFileName(QStringLiteral("org.tuvvo.Tuvvo"));
  const auto options = readOptions(app);
  if (!options) return wrongUse(options.error().what);
  dress(app, *options);

  Session session;
  MainWindow window(session);
  window.resize(options->size);
  openWhatIsAsked(session, *options);
  window.showStage(options->stage);
  const bool picture = !options->picture.isEmpty();
  if (picture) { // of the project that was asked for
    session.waitForJobs();
    QCoreApplication::processEvents();
  }
  if (picture && options->demo) prepareForPicture(session, options->panel);
  if (!options->panel.isEmpty() && !window.showPanel(options->stage, options->panel))
    return wrongUse("\"" + options->panel.toStdString() + "\" is no panel of that stage");
  openSound(session, *options);
  session.prepareCrate();
  session.sifter().look(true);
  session.importFiles(options->sounds);
  if (options->play) session.play();
  window.show();

  if (options->timeFirstPaint) {
    window.grab();
    std::printf("%lld ms\n", static_cast<long long>(sinceStart.elapsed()));
    return 0;
  }
  if (!picture) return QApplication::exec();
  if (takePicture(window, session, options->demo, options->panel, options->picture)) return 0;
  std::fprintf(stderr, "tuvvo: the picture cannot be written to %s.\n",
               qPrintable(options->picture));
  return 1;
}
