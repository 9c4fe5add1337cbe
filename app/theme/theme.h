// Colours, type and measures. One theme is in use at a time, on the interface thread.
#pragma once

#include "model/project.h"

#include <QColor>
#include <QFont>
#include <QPainter>
#include <QString>

class QApplication;

namespace tuvvo::theme {

/// Contrast of the pairs in use is checked by tests: text at least 4.5 : 1, marks 3 : 1.
struct Palette {
  QColor ground, panel, raised, line, text, quiet, brass, mint, coral, slate, lilac;
};

[[nodiscard]] Palette dusk();
[[nodiscard]] Palette daylight();
[[nodiscard]] const Palette& colours();
[[nodiscard]] bool isDaylight();
/// Rises whenever colours or type change, so that kept pictures know that they are old.
[[nodiscard]] int generation();

/// Loads the shipped fonts, sets palette and style sheet.
/// @param textScale  1 is the designed size; 0.8 to 2.5
void apply(QApplication& app, bool day, double textScale);
/// Changes the palette of all that is open, at once.
void setDaylight(QApplication& app, bool day);

/// Lengths of the design, scaled with the text.
[[nodiscard]] int px(double designPixels);

enum class Type { Small, Body, Strong, Title, Figure };
[[nodiscard]] QFont font(Type type);

/// Colours by name, for what outlives a change of the palette.
enum class Ink { Text, Quiet, Brass, Mint, Coral, Slate, Lilac };
[[nodiscard]] QColor ink(Ink name);

/// The colour of a row of the deck.
[[nodiscard]] QColor ofRow(Row row);
/// Where a part of this role stands in pictures of parts: 0 at the top (air) to 3 (floor).
[[nodiscard]] int placeOf(Row role);
/// A colour laid thinly over a ground: for grounds and washes, which say nothing by themselves.
[[nodiscard]] QColor mixed(QColor over, QColor ground, double share);
/// A mark that steps back: never under 3 : 1 against what it stands on (WCAG 2.1, 1.4.11).
/// @param strength  0 the palest that still has it, 1 the ink itself
[[nodiscard]] QColor markOf(QColor ink, QColor ground, double strength);
/// WCAG 2.1 contrast ratio, 1 to 21.
[[nodiscard]] double contrast(QColor a, QColor b);

/// Text in a box, shortened with an ellipsis when it is too long.
void drawText(QPainter& painter, const QRectF& box, Qt::Alignment alignment, const QString& text,
              Type type, QColor colour);

} // namespace tuvvo::theme
