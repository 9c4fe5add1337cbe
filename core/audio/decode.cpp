#include "audio/decode.h"

#include <array>
#include <cmath>
#include <cstring>
#include <fstream>
#include <limits>
#include <mutex>
#include <sndfile.h>

namespace tuvvo {

namespace {

constexpr sf_count_t kBlock = 16384;
constexpr float kMinus3 = 0.70710678f;

struct FoldGains {
  float left, right;
};

/// Gains per channel by channel count, in the usual file orders (WAVE_FORMAT_EXTENSIBLE masks).
std::vector<FoldGains> foldGains(int channels) {
  const FoldGains L{1, 0}, R{0, 1}, C{kMinus3, kMinus3}, low{0, 0}, sl{kMinus3, 0}, sr{0, kMinus3};
  const FoldGains rear{0.5f, 0.5f};
  switch (channels) {
  case 3:
    return {L, R, C};
  case 4:
    return {L, R, sl, sr};
  case 5:
    return {L, R, C, sl, sr};
  case 6:
    return {L, R, C, low, sl, sr};
  case 7:
    return {L, R, C, low, rear, sl, sr};
  default:
    return {L, R, C, low, sl, sr, sl, sr};
  }
}

/// What a RIFF or AIFF header promises against what is there. libsndfile quietly corrects a length
/// that lies; the person should hear of it.
bool headerPromisesMore(const std::filesystem::path& path, std::uint64_t fileSize) {
  std::ifstream in(path, std::ios::binary);
  unsigned char head[12] = {};
  in.read(reinterpret_cast<char*>(head), sizeof head);
  if (!in) return false;
  const auto little = std::uint32_t(head[4]) | std::uint32_t(head[5]) << 8 |
                      std::uint32_t(head[6]) << 16 | std::uint32_t(head[7]) << 24;
  const auto big = std::uint32_t(head[7]) | std::uint32_t(head[6]) << 8 |
                   std::uint32_t(head[5]) << 16 | std::uint32_t(head[4]) << 24;
  if (std::memcmp(head, "RIFF", 4) == 0) return std::uint64_t(little) + 8 > fileSize + 1;
  if (std::memcmp(head, "FORM", 4) == 0) return std::uint64_t(big) + 8 > fileSize + 1;
  return false;
}

/// @returns how many there were
std::int64_t silenceWhatIsNoNumber(std::span<float> samples) {
  int odd = 0; // counted first: there are hardly ever any
  for (float v : samples) odd += !(std::abs(v) <= std::numeric_limits<float>::max());
  if (odd > 0)
    for (float& v : samples)
      if (!std::isfinite(v)) v = 0.0f;
  return odd;
}

void fold(const std::vector<float>& frames, int channels, const std::vector<FoldGains>& gains,
          std::size_t count, std::array<std::vector<float>, 2>& out) {
  float *left = out[0].data(), *right = out[1].data();
  if (channels == 2) {
    for (std::size_t i = 0; i < count; ++i) {
      left[i] = frames[2 * i];
      right[i] = frames[2 * i + 1];
    }
    return;
  }
  for (std::size_t i = 0; i < count; ++i) {
    const float* frame = frames.data() + i * std::size_t(channels);
    left[i] = right[i] = 0;
    for (int c = 0; c < channels; ++c) {
      left[i] += gains[std::size_t(c)].left * frame[c];
      right[i] += gains[std::size_t(c)].right * frame[c];
    }
  }
}

Result<std::uint64_t> usableSize(const std::filesystem::path& path) {
  std::error_code code;
  if (!std::filesystem::exists(path, code))
    return Error{"There is no such file", path.string(), "Check the name, or find it again."};
  if (std::filesystem::is_directory(path, code))
    return Error{"This is a folder, not a sound", path.string(), "Choose the sounds inside it."};
  if (!std::filesystem::is_regular_file(path, code))
    return Error{"This is not a file that can be read as sound", path.string(), "Choose a file."};
  const auto size = std::filesystem::file_size(path, code);
  if (code)
    return Error{"The file cannot be read (" + code.message() + ")", path.string(),
                 "Check that it may be read."};
  if (size == 0)
    return Error{"The file is empty", path.string(), "Copy it again from where it came from."};
  return std::uint64_t(size);
}

} // namespace

Result<std::vector<std::string>> decodeBlocks(const std::filesystem::path& path, JobContext& job,
                                              const BlockTaker& taker, const DecodeLimits& limits) {
  const auto size = usableSize(path);
  if (!size) return size.error();

  SF_INFO info{};
  std::unique_ptr<SNDFILE, int (*)(SNDFILE*)> file(nullptr, sf_close);
  {
    // Why a file cannot be opened is kept by the library in one place for all threads.
    static std::mutex opening;
    const std::lock_guard lock(opening);
    file.reset(sf_open(path.c_str(), SFM_READ, &info));
    if (!file)
      return Error{std::string("This cannot be read as sound (") + sf_strerror(nullptr) + ")",
                   path.string(), "Tuvvo reads WAV, AIFF, FLAC, Ogg, Opus and MP3."};
  }
  if (info.channels < 1 || info.channels > 8)
    return Error{"The file has " + std::to_string(info.channels) + " channels", path.string(),
                 "Tuvvo reads one to eight; split it first."};
  if (info.samplerate < 8000 || info.samplerate > 192000)
    return Error{"The sample rate is " + std::to_string(info.samplerate) + " Hz", path.string(),
                 "Tuvvo reads 8 to 192 kHz; convert it first."};
  const int outChannels = info.channels == 1 ? 1 : 2;
  if (info.frames > limits.frames || info.frames * outChannels > limits.samples)
    return Error{"The file is too long", path.string(), "Cut it into parts of under three hours."};

  // The promised length is only a hint for memory: it is believed as far as the file's own size
  // could hold it (the densest format here stays far below 4096 frames a byte).
  const auto believable =
      std::min<std::int64_t>(info.frames, std::int64_t(size.value()) * 4096 / info.channels);
  taker.begin({Hertz(info.samplerate), outChannels, std::max<std::int64_t>(0, believable),
               std::int64_t(size.value())});

  const auto gains = foldGains(info.channels);
  std::vector<float> buffer(std::size_t(kBlock * info.channels));
  std::array<std::vector<float>, 2> out;
  for (auto& channel : out) channel.resize(std::size_t(kBlock));
  std::int64_t bad = 0, read = 0;
  bool wants = true;
  while (wants) {
    if (job.cancelled()) return Error{"Reading was cancelled", path.string(), ""};
    const sf_count_t n = sf_readf_float(file.get(), buffer.data(), kBlock);
    if (n <= 0) break;
    if ((read += n) > limits.frames || read * outChannels > limits.samples)
      return Error{"The file is too long", path.string(),
                   "Cut it into parts of under three hours."};
    const auto count = std::size_t(n);
    bad += silenceWhatIsNoNumber(std::span(buffer).first(count * std::size_t(info.channels)));
    if (info.channels == 1) {
      const auto mono = std::span<const float>(buffer).first(count);
      wants = taker.take(mono, mono);
    } else {
      fold(buffer, info.channels, gains, count, out);
      wants = taker.take(std::span(out[0]).first(count), std::span(out[1]).first(count));
    }
    if (info.frames > 0) job.report(double(read) / double(info.frames));
  }

  if (read == 0)
    return Error{"There is no sound in the file", path.string(),
                 "Copy it again from where it came from."};
  std::vector<std::string> warnings;
  const bool failed = sf_error(file.get()) != SF_ERR_NO_ERROR;
  if (wants && (read < info.frames || failed || headerPromisesMore(path, size.value())))
    warnings.push_back("The file ends before its own length says; it was read as far as it goes.");
  if (bad > 0)
    warnings.push_back(std::to_string(bad) + " samples were not numbers and were made silent.");
  if (info.channels > 2)
    warnings.push_back(std::to_string(info.channels) + " channels were folded to stereo.");
  return warnings;
}

Result<DecodedFile> decodeFile(const std::filesystem::path& path, JobContext& job,
                               const DecodeLimits& limits, Seconds most) {
  Channels channels;
  Hertz rate{0};
  const BlockTaker taker{[&](const SoundShape& shape) {
                           rate = shape.rate;
                           channels.resize(std::size_t(shape.channels));
                           // A length that only silence could keep is left to growing.
                           if (shape.frames < std::max<std::int64_t>(1 << 24, 8 * shape.bytes))
                             for (auto& channel : channels)
                               channel.reserve(std::size_t(std::min(
                                   double(shape.frames), most.value * rate.value + kBlock)));
                         },
                         [&](std::span<const float> left, std::span<const float> right) {
                           channels[0].insert(channels[0].end(), left.begin(), left.end());
                           if (channels.size() > 1)
                             channels[1].insert(channels[1].end(), right.begin(), right.end());
                           return double(channels[0].size()) < most.value * rate.value;
                         }};
  auto warnings = decodeBlocks(path, job, taker, limits);
  if (!warnings) return warnings.error();
  return DecodedFile{std::make_shared<Sound>(std::move(channels), rate),
                     std::move(warnings).value()};
}

} // namespace tuvvo
