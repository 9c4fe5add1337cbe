#include "parts/grids.h"

#include <QCoreApplication>
#include <algorithm>

namespace tuvvo {

QStringList gridNames() {
  const auto tr = [](const char* text) { return QCoreApplication::translate("grids", text); };
  return {tr("quarters"),      tr("eighths"), tr("8th triplets"),  tr("sixteenths"),
          tr("16th triplets"), tr("32nds"),   tr("32nd triplets"), tr("64ths"),
          tr("fives"),         tr("sevens")};
}

int gridIndex(int perBeat) {
  const auto found = std::find(kGrids.begin(), kGrids.end(), perBeat);
  return int((found == kGrids.end() ? std::find(kGrids.begin(), kGrids.end(), 4) : found) -
             kGrids.begin());
}

} // namespace tuvvo
