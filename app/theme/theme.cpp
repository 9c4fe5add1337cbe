#include "theme/theme.h"

#include "base/convert.h"
#include "formats/shipped.h"

#include <QApplication>
#include <QFontDatabase>
#include <QFontMetricsF>
#include <QPalette>
#include <QStyleFactory>
#include <QWidget>
#include <algorithm>
#include <cmath>
#include <map>

namespace tuvvo::theme {

namespace {

Palette current = dusk();
bool day = false;
double scale = 1;
int changes = 0;

QString styleSheet() {
  const auto& c = current;
  QString sheet = QStringLiteral(R"(
    QWidget { color: %text; font-family: "Tuvvo Sans"; }
    QToolTip { background: %raised; color: %text; border: 1px solid %line; padding: 4px 6px; }
    QLineEdit, QComboBox, QSpinBox { background: %raised; border: 1px solid %line; border-radius: 6px;
      padding: 3px 8px; selection-background-color: %brass; selection-color: %ground; }
    QLineEdit:focus, QComboBox:focus { border: 1px solid %brass; }
    QComboBox::drop-down { border: none; width: 18px; }
    QComboBox QAbstractItemView, QMenu, QListView { background: %panel; border: 1px solid %line;
      selection-background-color: %raised; selection-color: %text; outline: none; }
    QListView#found { border: none; } QListView#found::item { padding: 5px 6px; }
    QMenu::item { padding: 5px 22px 5px 14px; }
    QMenu::item:selected { background: %raised; }
    QMenu::item:disabled { color: %quiet; }
    QMenu::separator { height: 1px; background: %line; margin: 4px 8px; }
    QMenuBar { background: %panel; } QMenuBar::item { padding: 4px 9px; background: transparent; }
    QMenuBar::item:selected { background: %raised; border-radius: 4px; }
    QScrollArea, QScrollArea > QWidget, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
    QScrollBar:vertical { background: transparent; width: 10px; margin: 0; }
    QScrollBar:horizontal { background: transparent; height: 10px; margin: 0; }
    QScrollBar::handle { background: %line; border-radius: 4px; min-height: 24px; min-width: 24px; margin: 1px; }
    QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
  )");
  const std::pair<const char*, QColor> names[] = {
      {"%text", c.text}, {"%ground", c.ground}, {"%panel", c.panel}, {"%raised", c.raised},
      {"%line", c.line}, {"%brass", c.brass},   {"%quiet", c.quiet}};
  for (const auto& [name, colour] : names) sheet.replace(QLatin1String(name), colour.name());
  return sheet;
}

} // namespace

Palette dusk() {
  return {QColor(0x1B1622), QColor(0x261F2F), QColor(0x32293D), QColor(0x4A3F57),
          QColor(0xEFE7DA), QColor(0xB9AEC0), QColor(0xD8A845), QColor(0x86D3B0),
          QColor(0xE8795F), QColor(0x8FA7D8), QColor(0xC49BE0)};
}

Palette daylight() {
  return {QColor(0xF4EEE3), QColor(0xEAE2D4), QColor(0xFBF7EF), QColor(0xC6BAAA),
          QColor(0x2A2133), QColor(0x5F5469), QColor(0x845A00), QColor(0x1D6B4B),
          QColor(0xA83420), QColor(0x39549A), QColor(0x713F97)};
}

const Palette& colours() { return current; }
bool isDaylight() { return day; }
int generation() { return changes; }

void apply(QApplication& app, bool dayNow, double textScale) {
  static const bool loaded = [] {
    for (const char* weight : {"Regular", "Medium", "SemiBold", "Bold"})
      QFontDatabase::addApplicationFont(QString::fromStdString(
          (dataFolder() / "fonts" / (std::string("TuvvoSans-") + weight + ".ttf")).string()));
    return true;
  }();
  Q_UNUSED(loaded)
  day = dayNow;
  scale = std::clamp(textScale, 0.8, 2.5);
  current = day ? daylight() : dusk();
  ++changes;
  app.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
  QPalette palette;
  palette.setColor(QPalette::Window, current.ground);
  palette.setColor(QPalette::Base, current.raised);
  palette.setColor(QPalette::AlternateBase, current.panel);
  palette.setColor(QPalette::Button, current.raised);
  for (auto role :
       {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
    palette.setColor(role, current.text);
  palette.setColor(QPalette::PlaceholderText, current.quiet);
  palette.setColor(QPalette::Highlight, current.brass);
  palette.setColor(QPalette::HighlightedText, current.ground);
  palette.setColor(QPalette::ToolTipBase, current.raised);
  app.setPalette(palette);
  app.setFont(font(Type::Body));
  app.setStyleSheet(styleSheet());
}

void setDaylight(QApplication& app, bool dayNow) {
  apply(app, dayNow, scale);
  for (QWidget* widget : QApplication::allWidgets()) widget->update();
}

int px(double designPixels) { return toNearest<int>(designPixels * scale); }

QFont font(Type type) {
  QFont f(QStringLiteral("Tuvvo Sans"));
  const auto set = [&](double size, QFont::Weight weight) {
    f.setPixelSize(std::max(1, toNearest<int>(size * scale)));
    f.setWeight(weight);
  };
  switch (type) {
  case Type::Small:
    set(11, QFont::Medium);
    break;
  case Type::Body:
    set(12.5, QFont::Medium);
    break;
  case Type::Strong:
    set(13, QFont::DemiBold);
    break;
  case Type::Title:
    set(16, QFont::DemiBold);
    break;
  case Type::Figure:
    set(22, QFont::DemiBold);
    break;
  }
  return f;
}

QColor ink(Ink name) {
  switch (name) {
  case Ink::Text:
    break;
  case Ink::Quiet:
    return current.quiet;
  case Ink::Brass:
    return current.brass;
  case Ink::Mint:
    return current.mint;
  case Ink::Coral:
    return current.coral;
  case Ink::Slate:
    return current.slate;
  case Ink::Lilac:
    return current.lilac;
  }
  return current.text;
}

int placeOf(Row role) {
  switch (role) {
  case Row::Air:
    return 0;
  case Row::Body:
    return 1;
  case Row::Cuts:
    return 2;
  case Row::Floor:
    break;
  }
  return 3;
}

QColor ofRow(Row row) {
  switch (row) {
  case Row::Cuts:
    return current.slate;
  case Row::Air:
    return current.mint;
  case Row::Body:
    return current.lilac;
  case Row::Floor:
    break;
  }
  return current.brass;
}

QColor mixed(QColor over, QColor ground, double share) {
  const auto blend = [share](int a, int b) { return toNearest<int>(a * share + b * (1 - share)); };
  return QColor(blend(over.red(), ground.red()), blend(over.green(), ground.green()),
                blend(over.blue(), ground.blue()));
}

QColor markOf(QColor ink, QColor ground, double strength) {
  // Pictures ask thousands of times for the same few pairs.
  static std::map<std::pair<QRgb, QRgb>, double> palest;
  const auto [known, isNew] = palest.try_emplace({ink.rgb(), ground.rgb()}, 1.0);
  if (isNew)
    for (int percent = 0; percent < 100; ++percent)
      if (contrast(mixed(ink, ground, percent / 100.0), ground) >= 3.0) {
        known->second = percent / 100.0;
        break;
      }
  return mixed(ink, ground, known->second + (1 - known->second) * std::clamp(strength, 0.0, 1.0));
}

double contrast(QColor a, QColor b) {
  const auto luminance = [](QColor c) {
    const auto linear = [](double v) {
      return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
    };
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
  };
  const double x = luminance(a), y = luminance(b);
  return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

void drawText(QPainter& painter, const QRectF& box, Qt::Alignment alignment, const QString& text,
              Type type, QColor colour) {
  const QFont f = font(type);
  painter.setFont(f);
  painter.setPen(colour);
  const QString shown = QFontMetricsF(f).elidedText(text, Qt::ElideRight, box.width());
  painter.drawText(box, int(alignment) | Qt::TextSingleLine, shown);
}

} // namespace tuvvo::theme
