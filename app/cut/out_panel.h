// Slices for other programs and devices.
#pragma once

#include "panel/panel.h"
#include "session/print_service.h"
#include "widgets/combo.h"

#include <QWidget>

namespace tuvvo {

class Button;
class Tick;

class OutPanel : public Panel {
  Q_OBJECT
public:
  OutPanel(Panel& host, PrintService& printing, QWidget* parent);
  /// Asks for a folder and writes there; says what is missing where nothing is cut.
  void askWhere();
  /// Writes into a folder what the row says.
  void writeTo(const QString& folder);

private:
  void refresh();
  PrintService& m_printing;
  Combo *m_format, *m_how;
  Tick *m_instrument, *m_whole;
  Button* m_write;
};

} // namespace tuvvo
