#include "options.h"

#include <QCommandLineParser>
#include <QFileInfo>

namespace tuvvo {

namespace {

using Option = QCommandLineOption;

const Option kPlay(QStringLiteral("play"), QStringLiteral("Play the pattern at once."));
const Option kDemo(QStringLiteral("demo"), QStringLiteral("Open the Salt Quay demonstration."));
const Option kStage(QStringLiteral("stage"),
                    QStringLiteral("crate, cut, keys, beat, song or print; "
                                   "crate/beat, crate/crate, crate/service or crate/papers, "
                                   "each with /NAME of a source."),
                    QStringLiteral("NAME"));
const Option kPicture(QStringLiteral("screenshot"),
                      QStringLiteral("Write a picture of the window and end."),
                      QStringLiteral("OUT.png"));
const Option kSize(QStringLiteral("size"), QStringLiteral("Window size, 1280x800 unless given."),
                   QStringLiteral("WxH"));
const Option kAudio(QStringLiteral("audio"),
                    QStringLiteral("automatic, jack, pulse, alsa or simulated."),
                    QStringLiteral("NAME"));
const Option kInput(QStringLiteral("input"),
                    QStringLiteral("none, device, line, microphone or cable."),
                    QStringLiteral("NAME"));
const Option kDaylight(QStringLiteral("daylight"), QStringLiteral("The daylight palette."));
const Option kTextScale(QStringLiteral("text-scale"),
                        QStringLiteral("Size of text in per cent, 80 to 250."),
                        QStringLiteral("PERCENT"));
const Option kFirstPaint(QStringLiteral("time-first-paint"),
                         QStringLiteral("Print how long the first painted window took, and end."));

/// For us and for pictures: every control of ours.
Option galleryOption() {
  Option option(QStringLiteral("gallery"), {}, QStringLiteral("PAGE"));
  option.setFlags(Option::HiddenFromHelp);
  return option;
}
const Option kGallery = galleryOption();

std::optional<Stage> stageFromName(const QString& name) {
  static constexpr std::array names{"crate", "cut", "keys", "beat", "song", "print"};
  for (std::size_t i = 0; i < names.size(); ++i)
    if (name.toLower() == QLatin1String(names[i])) return Stage(i);
  return std::nullopt;
}

Error wrong(const QString& what) { return {what.toStdString(), "", "See tuvvo --help."}; }

Result<void> readStage(const QString& text, Options& out) {
  const auto named = stageFromName(text.section(QLatin1Char('/'), 0, 0));
  if (!named) return wrong(QStringLiteral("\"%1\" is no stage").arg(text));
  out.stage = *named;
  out.panel = text.section(QLatin1Char('/'), 1, -1);
  return {};
}

Result<void> readSize(const QString& text, Options& out) {
  const auto parts = text.split(QLatin1Char('x'));
  if (parts.size() == 2) out.size = QSize(parts[0].toInt(), parts[1].toInt());
  if (parts.size() != 2 || out.size.width() < 640 || out.size.height() < 480 ||
      out.size.width() > 7680 || out.size.height() > 4320)
    return wrong(QStringLiteral("--size takes WxH from 640x480 to 7680x4320"));
  return {};
}

Result<void> readSound(const QCommandLineParser& parser, Options& out) {
  if (!out.picture.isEmpty() || out.timeFirstPaint) out.output = OutputChoice::Simulated;
  if (!out.picture.isEmpty()) out.input = InputChoice::None;
  if (parser.isSet(kAudio)) {
    out.output = outputFromName(parser.value(kAudio).toStdString());
    if (!out.output)
      return wrong(QStringLiteral("\"%1\" is no sound output").arg(parser.value(kAudio)));
  }
  if (parser.isSet(kInput)) {
    out.input = inputFromName(parser.value(kInput).toStdString());
    if (!out.input) return wrong(QStringLiteral("\"%1\" is no input").arg(parser.value(kInput)));
  }
  return {};
}

Result<void> readTextScale(const QString& text, Options& out) {
  bool ok = false;
  out.textScale = text.toDouble(&ok) / 100;
  if (!ok || !(*out.textScale >= 0.8 && *out.textScale <= 2.5))
    return wrong(QStringLiteral("--text-scale takes 80 to 250"));
  return {};
}

/// A project is a folder; file managers may hand over the file in it.
void readFiles(const QStringList& files, Options& out) {
  for (const QString& file : files) {
    const QFileInfo info(file);
    const QString around = info.path();
    if (file.endsWith(QLatin1String(".tuvvo")) || file.endsWith(QLatin1String(".tuvvo/")))
      out.project = file;
    else if (info.fileName() == QLatin1String("project.json") &&
             around.endsWith(QLatin1String(".tuvvo")))
      out.project = around;
    else
      out.sounds << file;
  }
}

} // namespace

Result<Options> readOptions(const QCoreApplication& app) {
  QCommandLineParser parser;
  parser.setApplicationDescription(QStringLiteral("Turns recorded sound into a finished beat."));
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument(QStringLiteral("files"),
                               QStringLiteral("A project folder (.tuvvo) or sounds."));
  parser.addOptions({kPlay, kDemo, kStage, kPicture, kSize, kAudio, kInput, kDaylight, kTextScale,
                     kFirstPaint, kGallery});
  parser.process(app);
  Options out;
  out.demo = parser.isSet(kDemo);
  out.play = parser.isSet(kPlay);
  out.daylight = parser.isSet(kDaylight);
  out.timeFirstPaint = parser.isSet(kFirstPaint);
  out.picture = parser.value(kPicture);
  if (parser.isSet(kGallery)) out.gallery = parser.value(kGallery);
  if (parser.isSet(kStage))
    if (const auto read = readStage(parser.value(kStage), out); !read) return read.error();
  if (parser.isSet(kSize))
    if (const auto read = readSize(parser.value(kSize), out); !read) return read.error();
  if (parser.isSet(kTextScale))
    if (const auto read = readTextScale(parser.value(kTextScale), out); !read) return read.error();
  if (const auto read = readSound(parser, out); !read) return read.error();
  readFiles(parser.positionalArguments(), out);
  return out;
}

} // namespace tuvvo
