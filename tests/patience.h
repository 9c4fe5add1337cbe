// Waiting for what has to happen. A machine with other work takes many times as long as a quiet
// one, so a test waits for minutes before it says that something never came: only a fault costs
// that.
#pragma once

#include <QTest>

namespace tuvvo::test {
inline constexpr int kPatienceMs = 180'000;
} // namespace tuvvo::test

/// Passes as soon as something is so; the events go on meanwhile.
#define EVENTUALLY(...) QTRY_VERIFY_WITH_TIMEOUT((__VA_ARGS__), tuvvo::test::kPatienceMs)
/// Passes as soon as the first is the second, and shows both where it never is.
#define EVENTUALLY_IS(is, ...)                                                                     \
  QTRY_COMPARE_WITH_TIMEOUT(is, (__VA_ARGS__), tuvvo::test::kPatienceMs)
