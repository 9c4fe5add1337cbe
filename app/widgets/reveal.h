// The way to a control that is out of sight: under another tab, or under More.
#pragma once

class QWidget;

namespace tuvvo {

/// What a control belongs to: what it lies in; for what lies under More, the button that opens it.
[[nodiscard]] QWidget* belongsTo(const QWidget& control);

/// Whether tabs and More are all that keeps a control out of sight.
/// @param root  what is in sight itself; the control lies in it
[[nodiscard]] bool canBeRevealed(const QWidget& control, const QWidget& root);

/// Presses the tabs and opens the More that it lies under, and scrolls to it.
void reveal(QWidget& control, const QWidget& root);

} // namespace tuvvo
