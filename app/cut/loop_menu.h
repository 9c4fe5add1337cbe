// Places of a source that loop, offered in a menu.
#pragma once

class QWidget;

namespace tuvvo {

class Panel;

/// Asks which of the places that join best is wanted, for one, two, four and eight bars, and cuts
/// there. Says so where there is none.
/// @param under  the menu opens under it
void offerLoops(Panel& panel, QWidget* under);

} // namespace tuvvo
