// Loops that are also built for wider registers; which build runs is chosen when the program
// starts.
#pragma once

/// Before a function whose loops the compiler can take several values at once in. Every value is
/// reckoned in the order in which it is written, so that both builds agree to the last bit. (Not
/// under sanitizers, which cannot choose that early, and not by clang, which leaves out the inline
/// functions that only such a function calls.)
#if defined(__x86_64__) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__) &&                \
    !defined(__SANITIZE_THREAD__)
#define TUVVO_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define TUVVO_WIDE
#endif
