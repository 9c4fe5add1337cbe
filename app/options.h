// What the program was asked for on its command line.
#pragma once

#include "devices/live_sound.h"
#include "shell/rail.h"

#include <QSize>

class QCoreApplication;

namespace tuvvo {

struct Options {
  Stage stage = Stage::Crate;
  QString panel; ///< of the stage; empty: its usual one
  bool demo = false, play = false, daylight = false, timeFirstPaint = false;
  QString picture;                ///< where to; empty: none is taken
  std::optional<QString> gallery; ///< a page of our controls instead of the window
  QSize size{1280, 800};
  std::optional<OutputChoice> output; ///< nothing: as it was chosen before
  std::optional<InputChoice> input;
  std::optional<double> textScale;
  QString project;
  QStringList sounds;
};

/// Reads them; --help and --version are answered, and end the program.
/// @returns an Error for wrong use
[[nodiscard]] Result<Options> readOptions(const QCoreApplication& app);

} // namespace tuvvo
