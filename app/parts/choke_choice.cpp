#include "parts/choke_choice.h"

#include <QCoreApplication>

namespace tuvvo {

Combo* chokeChoice(const QString& tip, QWidget* parent) {
  const auto tr = [](const char* text) { return QCoreApplication::translate("choke", text); };
  auto* made = new Combo(tr("Choke"), tip, parent);
  made->addItem(tr("no choke"));
  for (char letter = 'a'; letter <= 'h'; ++letter)
    made->addItem(tr("choke %1").arg(QLatin1Char(letter)));
  return made;
}

} // namespace tuvvo
