// Pictures of the window, for the README and for looking at it without a display.
#pragma once

#include "session/services.h"

namespace tuvvo {

class MainWindow;

/// A picture of the demo is of work in progress: something is chosen, the middle of the song
/// sounds.
void prepareForPicture(Services& services, const QString& panel);
/// Waits until everything is worked out, and writes what the window shows.
/// @param demo   it shows the demo: panels that show work are shown at it
/// @param panel  empty for the stage's usual one
/// @returns false when the picture cannot be written
bool takePicture(MainWindow& window, Services& services, bool demo, const QString& panel,
                 const QString& path);

} // namespace tuvvo
