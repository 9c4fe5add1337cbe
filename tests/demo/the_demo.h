// The demo that ships, for tests.
#pragma once
#include "formats/shipped.h"

#include <QtGlobal>

namespace tuvvo::test {

inline Project theDemo() {
  JobContext job;
  auto demo = shippedDemo(TUVVO_DATA_DIR, job);
  if (!demo) qFatal("%s", demo.error().text().c_str());
  return std::move(demo).value();
}

} // namespace tuvvo::test
