// Asking which files to add.
#pragma once

#include <QStringList>

class QWidget;

namespace tuvvo {

/// Opens the file dialog. @returns what was chosen; empty when it is closed without a choice
[[nodiscard]] QStringList chooseSounds(QWidget* parent);

} // namespace tuvvo
