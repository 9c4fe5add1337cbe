// Memory for samples. What is long lies in a file, so that an hour of sound leaves room for others.
#pragma once

#include <cstddef>
#include <filesystem>
#include <span>
#include <vector>

namespace tuvvo {

/// Gives memory for samples. Pieces of kLong bytes and more are a mapped file without a name (it is
/// gone when the piece is given back, and after a crash) in the person's cache folder, or where
/// setLongSampleFolder() says; where that would leave less than 512 MB on the disc they are
/// ordinary memory. What of such files has been touched is let go of again by a thread that looks
/// fifty times a second and allows about kAllowed bytes of them: the system keeps the pages as it
/// keeps any file's, and touching them again brings them back. So one way of reading and writing
/// serves short and long.
///
/// Any thread, not the audio thread. The audio thread reads of long ones only what is kept: see
/// prefetch.h.
/// @throws std::bad_alloc when neither disc nor memory has the room
void* giveSamples(std::size_t bytes);
void takeSamplesBack(void* memory, std::size_t bytes) noexcept;

inline constexpr std::size_t kLong = std::size_t(64) << 20;    ///< bytes; 5.8 minutes at 48 kHz
inline constexpr std::size_t kAllowed = std::size_t(96) << 20; ///< bytes of all long ones

/// Where files of long samples go from now on; empty for the cache folder. For tests and tools.
void setLongSampleFolder(std::filesystem::path folder);

/// How many bytes of long samples lie in files now. Any thread.
[[nodiscard]] std::size_t longSamplesInFiles();

template <typename T> struct SampleAllocator {
  using value_type = T;
  SampleAllocator() = default;
  template <typename U> SampleAllocator(const SampleAllocator<U>& /*other*/) noexcept {}
  T* allocate(std::size_t count) { return static_cast<T*>(giveSamples(count * sizeof(T))); }
  void deallocate(T* memory, std::size_t count) noexcept {
    takeSamplesBack(memory, count * sizeof(T));
  }
  friend bool operator==(const SampleAllocator& /*a*/, const SampleAllocator& /*b*/) {
    return true;
  }
};

/// The samples of one channel.
using Samples = std::vector<float, SampleAllocator<float>>;
/// Channels of equal length.
using Channels = std::vector<Samples>;

/// Whether samples are long ones that lie in a file. Any thread but the audio thread.
[[nodiscard]] bool liesInFile(std::span<const float> samples);

/// Brings long samples into memory, reading them if need be, and keeps the system's pages of them
/// until they are let go of; each may be kept several times. Locked in memory, too, as far as the
/// system allows. Does nothing for short ones. Any thread but the audio thread.
void keepSamples(std::span<const float> samples);
void letGoOfSamples(std::span<const float> samples);

} // namespace tuvvo
