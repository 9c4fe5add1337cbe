// tuvvo [PROJECT|SOUND...] [--demo] [--stage NAME] [--screenshot OUT.png] [--audio NAME]
#include "formats/shipped.h"
#include "gallery/gallery.h"
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

int showGallery(const Options& options) {
  Gallery gallery;
  gallery.resize(options.size);
  if (!gallery.showPage(*options.gallery))
    return wrongUse("\"" + options.gallery->toStdString() + "\" is no page of the gallery");
  gallery.show();
  if (options.picture.isEmpty()) return QApplication::exec();
  return gallery.grab().save(options.picture) ? 0 : 1;
}

/// What was asked for, or what there was last.
void openWhatIsAsked(Services& services, const Options& options) {
  const bool asked = options.demo || !options.project.isEmpty() || !options.sounds.isEmpty();
  if (asked)
    services.files.startNew(); // a project takes its place when it is read
  else
    services.files.startWhereYouLeft();
  if (options.demo) services.files.startDemo();
  if (!options.project.isEmpty()) services.files.open(options.project);
  if (asked && options.picture.isEmpty()) services.files.offerUnsaved();
}

/// Until what was asked for has been read and has taken its place, or a message says why not.
void waitUntilOpen(const JobService& jobs) {
  while (!jobs.text().isEmpty()) QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);
}

void openSound(Services& services, const Options& options) {
  SoundChoice sound = services.player.soundMemory().choice();
  if (options.output) sound.server = *options.output;
  if (options.input) sound.input = *options.input;
  services.player.openSound(sound);
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
  if (options->gallery) return showGallery(*options);

  Services services;
  MainWindow window(services);
  window.resize(options->size);
  openWhatIsAsked(services, *options);
  window.showStage(options->stage);
  const bool picture = !options->picture.isEmpty();
  const bool intoIt = options->play || !options->sounds.isEmpty();
  if (picture || intoIt || options->timeFirstPaint) waitUntilOpen(services.jobs);
  if (picture) { // of what follows from it as well
    services.wait();
    QCoreApplication::processEvents();
  }
  if (picture && options->demo) prepareForPicture(services, options->panel);
  if (!options->panel.isEmpty() && !window.showPanel(options->stage, options->panel))
    return wrongUse("\"" + options->panel.toStdString() + "\" is no panel of that stage");
  openSound(services, *options);
  services.crate.prepare();
  services.sifter.look(true);
  services.sources.importFiles(options->sounds);
  if (options->play) services.transport.play();
  window.show();

  if (options->timeFirstPaint) {
    window.grab();
    std::printf("%lld ms\n", static_cast<long long>(sinceStart.elapsed()));
    return 0;
  }
  if (!picture) return QApplication::exec();
  if (takePicture(window, services, options->demo, options->panel, options->picture)) return 0;
  std::fprintf(stderr, "tuvvo: the picture cannot be written to %s.\n",
               qPrintable(options->picture));
  return 1;
}
