#include "session/clock_text.h"

#include "base/convert.h"

namespace tuvvo {

QString clockText(Seconds at, bool tenths) {
  const auto tens = toNearest<std::int64_t>(at.value * 10);
  const QString text =
      QStringLiteral("%1:%2").arg(tens / 600).arg(tens / 10 % 60, 2, 10, QLatin1Char('0'));
  return tenths ? QStringLiteral("%1.%2").arg(text).arg(tens % 10) : text;
}

} // namespace tuvvo
