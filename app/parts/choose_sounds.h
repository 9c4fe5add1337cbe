// Asking which files to add.
#pragma once

class QWidget;

namespace tuvvo {

class Session;

/// Opens the file dialog and imports what was chosen; nothing when it is closed without a choice.
void chooseSounds(Session& session, QWidget* parent);

} // namespace tuvvo
