// Waiting for a JACK server by asking it, not by the clock.
#pragma once

#include <QtTest>
#include <jack/jack.h>

namespace tuvvo::test {

/// @returns whether the server named by the environment answers within a time
inline bool jackAnswers(int withinMs = 15'000) {
  jack_set_error_function([](const char*) {}); // while it does not answer yet
  const bool answers = QTest::qWaitFor(
      [] {
        jack_client_t* client = jack_client_open("tuvvo-asks", JackNoStartServer, nullptr);
        if (!client) return false;
        jack_client_close(client);
        return true;
      },
      withinMs);
  jack_set_error_function(nullptr);
  return answers;
}

} // namespace tuvvo::test
