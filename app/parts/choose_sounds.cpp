#include "parts/choose_sounds.h"

#include <QCoreApplication>
#include <QFileDialog>

namespace tuvvo {

QStringList chooseSounds(QWidget* parent) {
  const auto tr = [](const char* text) { return QCoreApplication::translate("AddSounds", text); };
  return QFileDialog::getOpenFileNames(
      parent, tr(QT_TRANSLATE_NOOP("AddSounds", "Add sounds")), QString(),
      tr(QT_TRANSLATE_NOOP("AddSounds", "Sounds (*.wav *.aif *.aiff *.flac *.ogg *.opus *.mp3);;"
                                        "All files (*)")));
}

} // namespace tuvvo
