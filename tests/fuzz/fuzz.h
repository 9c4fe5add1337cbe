// What all fuzzers share: libFuzzer's entry (llvm.org/docs/LibFuzzer.html), and input as a file.
#pragma once

#include <cstddef>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <sys/mman.h>
#include <unistd.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count);

namespace tuvvo::fuzz {

inline std::string textOf(const std::uint8_t* bytes, std::size_t count) {
  return {reinterpret_cast<const char*>(bytes), count};
}

/// What must hold for every input.
inline void mustHold(bool held, const char* what) {
  if (held) return;
  std::fprintf(stderr, "does not hold: %s\n", what);
  std::abort();
}

/// Bytes as a file in memory, for what opens by name.
class InputFile {
public:
  InputFile(const std::uint8_t* bytes, std::size_t count)
      : m_fd(::memfd_create("input", MFD_CLOEXEC)) {
    mustHold(m_fd >= 0 && ::write(m_fd, bytes, count) == long(count), "a file in memory");
  }
  ~InputFile() { ::close(m_fd); }
  InputFile(const InputFile&) = delete;
  InputFile& operator=(const InputFile&) = delete;
  [[nodiscard]] std::string path() const { return "/proc/self/fd/" + std::to_string(m_fd); }

private:
  int m_fd;
};

} // namespace tuvvo::fuzz
