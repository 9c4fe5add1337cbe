#include "parts/choose_sounds.h"

#include "session/session.h"

#include <QCoreApplication>
#include <QFileDialog>

namespace tuvvo {

void chooseSounds(Session& session, QWidget* parent) {
  const auto tr = [](const char* text) { return QCoreApplication::translate("AddSounds", text); };
  session.importFiles(QFileDialog::getOpenFileNames(
      parent, tr(QT_TRANSLATE_NOOP("AddSounds", "Add sounds")), QString(),
      tr(QT_TRANSLATE_NOOP("AddSounds", "Sounds (*.wav *.aif *.aiff *.flac *.ogg *.opus *.mp3);;"
                                        "All files (*)"))));
}

} // namespace tuvvo
