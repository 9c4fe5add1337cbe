#include "audio/decode.h"

#include "audio/mp3_reader.h"
#include "base/convert.h"
#include "base/guard.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <mutex>
#include <sndfile.h>
#include <unistd.h>

namespace tuvvo {

namespace {

constexpr sf_count_t kReadBlock = 16384;
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
std::int64_t silenceWhatIsNoSound(std::span<float> samples) {
  int odd = 0; // counted first: there are hardly ever any
  for (float v : samples) odd += !isSound(v);
  if (odd > 0)
    for (float& v : samples)
      if (!isSound(v)) v = 0.0f;
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
  const int fd = ::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC);
  if (fd < 0) {
    const int trouble = errno;
    return Error{std::string("The file cannot be read (") + std::strerror(trouble) + ")",
                 path.string(),
                 trouble == EACCES ? "You may not read it: change its permissions."
                                   : "Check that it is still there."};
  }
  ::close(fd);
  return std::uint64_t(size);
}

/// What both libraries give: interleaved blocks.
struct OpenSound {
  int channels = 0, rate = 0;
  std::int64_t frames = 0; ///< as promised; 0 for not known
  std::function<std::int64_t(float*, std::int64_t)> read;
  std::function<bool()> failed; ///< whether reading ended at something that is no sound
};

Error whyNot(int code, const std::string& said, const std::filesystem::path& path) {
  if (code == SF_ERR_UNRECOGNISED_FORMAT)
    return {"This is not a sound that Tuvvo knows", path.string(),
            "Tuvvo reads WAV, AIFF, FLAC, Ogg, Opus and MP3."};
  if (code == SF_ERR_UNSUPPORTED_ENCODING)
    return {"The sound is stored in a way that cannot be read", path.string(),
            "Save it as plain WAV or FLAC with the program that made it."};
  return {"The file is damaged (" + said + ")", path.string(),
          "Copy it again from where it came from."};
}

Result<OpenSound> openSound(const std::filesystem::path& path) {
  if (looksLikeMp3(path)) {
    auto opened = Mp3Reader::open(path);
    if (!opened) return opened.error();
    const std::shared_ptr<Mp3Reader> file = std::move(opened).value();
    return OpenSound{file->channels(), file->rate(), file->frames(),
                     [file](float* to, std::int64_t count) { return file->read(to, count); },
                     [file] { return file->failed(); }};
  }
  SF_INFO info{};
  // Why a file cannot be opened is kept by the library in one place for all threads.
  static std::mutex opening;
  const std::lock_guard lock(opening);
  const std::shared_ptr<SNDFILE> file(sf_open(path.c_str(), SFM_READ, &info), [](SNDFILE* f) {
    if (f) sf_close(f);
  });
  if (!file) return whyNot(sf_error(nullptr), sf_strerror(nullptr), path);
  return OpenSound{info.channels, info.samplerate, info.frames,
                   [file](float* to, std::int64_t count) {
                     return std::int64_t(sf_readf_float(file.get(), to, count));
                   },
                   [file] { return sf_error(file.get()) != SF_ERR_NO_ERROR; }};
}

Error tooLong(const std::filesystem::path& path) {
  return {"The sound is longer than three hours, or too large", path.string(),
          "Cut it into parts of under three hours."};
}

Result<std::vector<std::string>> readBlocks(const std::filesystem::path& path, JobContext& job,
                                            const BlockTaker& taker, const DecodeLimits& limits) {
  const auto size = usableSize(path);
  if (!size) return size.error();
  if (std::int64_t(size.value()) > limits.bytes) return tooLong(path);
  auto opened = openSound(path);
  if (!opened) return opened.error();
  const OpenSound& file = opened.value();
  if (file.channels < 1 || file.channels > 8)
    return Error{"The file has " + std::to_string(file.channels) + " channels", path.string(),
                 "Tuvvo reads one to eight; split it first."};
  if (file.rate < 8000 || file.rate > 192000)
    return Error{"The sample rate is " + std::to_string(file.rate) + " Hz", path.string(),
                 "Tuvvo reads 8 to 192 kHz; convert it first."};
  const int outChannels = file.channels == 1 ? 1 : 2;
  const auto most = std::min(toWhole<std::int64_t>(limits.duration.value * file.rate),
                             limits.samples / outChannels);
  // The promised length is only a hint: it is believed as far as the file's own size could hold it
  // (the densest format here stays far below 4096 frames a byte).
  const auto believable =
      std::min<std::int64_t>(file.frames, std::int64_t(size.value()) * 4096 / file.channels);
  if (believable > most) return tooLong(path);
  taker.begin({Hertz(file.rate), outChannels, std::max<std::int64_t>(0, believable),
               std::int64_t(size.value())});

  const auto gains = foldGains(file.channels);
  std::vector<float> buffer(std::size_t(kReadBlock * file.channels));
  std::array<std::vector<float>, 2> out;
  for (auto& channel : out) channel.resize(std::size_t(kReadBlock));
  std::int64_t bad = 0, read = 0;
  bool wants = true;
  while (wants) {
    if (job.cancelled()) return Error{"Reading was cancelled", path.string(), ""};
    const std::int64_t n = file.read(buffer.data(), kReadBlock);
    if (n <= 0) break;
    read += n;
    if (read > most) return tooLong(path);
    const auto count = std::size_t(n);
    bad += silenceWhatIsNoSound(std::span(buffer).first(count * std::size_t(file.channels)));
    if (file.channels == 1) {
      const auto mono = std::span<const float>(buffer).first(count);
      wants = taker.take(mono, mono);
    } else {
      fold(buffer, file.channels, gains, count, out);
      wants = taker.take(std::span(out[0]).first(count), std::span(out[1]).first(count));
    }
    if (file.frames > 0) job.report(double(read) / double(file.frames));
  }

  if (read == 0)
    return Error{"There is no sound in the file", path.string(),
                 "Copy it again from where it came from."};
  std::vector<std::string> warnings;
  if (wants && (read < file.frames || file.failed() || headerPromisesMore(path, size.value())))
    warnings.push_back("The file ends before its own length says; it was read as far as it goes.");
  if (bad > 0)
    warnings.push_back(std::to_string(bad) +
                       " samples were no sound (no numbers, or louder than anything) and were made "
                       "silent.");
  if (file.channels > 2)
    warnings.push_back(std::to_string(file.channels) + " channels were folded to stereo.");
  return warnings;
}

} // namespace

Result<std::vector<std::string>> decodeBlocks(const std::filesystem::path& path, JobContext& job,
                                              const BlockTaker& taker, const DecodeLimits& limits) {
  return guarded("Reading the sound", path.string(),
                 [&] { return readBlocks(path, job, taker, limits); });
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
                                   double(shape.frames), most.value * rate.value + kReadBlock)));
                         },
                         [&](std::span<const float> left, std::span<const float> right) {
                           channels[0].insert(channels[0].end(), left.begin(), left.end());
                           if (channels.size() > 1)
                             channels[1].insert(channels[1].end(), right.begin(), right.end());
                           return double(channels[0].size()) < most.value * rate.value;
                         }};
  auto warnings = decodeBlocks(path, job, taker, limits);
  if (!warnings) return warnings.error();
  return guarded("Reading the sound", path.string(), [&]() -> Result<DecodedFile> {
    return DecodedFile{std::make_shared<Sound>(std::move(channels), rate),
                       std::move(warnings).value()};
  });
}

} // namespace tuvvo
