#include "audio/encode.h"

#include "audio/file_marks.h"
#include "audio/resample.h"
#include "base/convert.h"
#include "base/hash.h"
#include "base/new_file.h"
#include "base/random.h"
#include "base/text.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <memory>
#include <sndfile.h>

namespace tuvvo {

Result<FileFormat> formatFromName(const std::filesystem::path& path) {
  const std::string ending = lowerCase(path.extension().string());
  if (ending == ".wav") return FileFormat::Wav;
  if (ending == ".flac") return FileFormat::Flac;
  if (ending == ".ogg") return FileFormat::Ogg;
  if (ending == ".opus") return FileFormat::Opus;
  if (ending == ".mp3") return FileFormat::Mp3;
  return Error{"The name's ending does not say which kind of file to write", path.string(),
               "Use .wav, .flac, .ogg, .opus or .mp3."};
}

bool fitsIn24Bits(const Sound& sound) {
  for (int c = 0; c < sound.channels(); ++c)
    for (float sample : sound.channel(c)) {
      const float scaled = sample * 8388608.0f; // exact: a power of two
      if (scaled != std::nearbyint(scaled) || scaled > 8388607.0f || scaled < -8388608.0f)
        return false;
    }
  return true;
}

namespace {

int sndfileFormat(FileFormat format, SampleFormat samples) {
  const int integer = samples == SampleFormat::Int16 ? SF_FORMAT_PCM_16 : SF_FORMAT_PCM_24;
  switch (format) {
  case FileFormat::Wav:
    return SF_FORMAT_WAV | (samples == SampleFormat::Float32 ? SF_FORMAT_FLOAT : integer);
  case FileFormat::Flac:
    return SF_FORMAT_FLAC | integer;
  case FileFormat::Ogg:
    return SF_FORMAT_OGG | SF_FORMAT_VORBIS;
  case FileFormat::Opus:
    return SF_FORMAT_OGG | SF_FORMAT_OPUS;
  case FileFormat::Mp3:
    return SF_FORMAT_MPEG | SF_FORMAT_MPEG_LAYER_III;
  }
  return 0;
}

/// Interleaves frames [from, from + count) as left-justified 32-bit integers of the given width.
void interleaveIntegers(const Sound& sound, std::int64_t from, std::int64_t count, int bits,
                        Random& dither, std::vector<int>& out) {
  const double scale = std::ldexp(1.0, bits - 1);
  const bool dithers = bits == 16;
  const int channels = sound.channels();
  out.resize(std::size_t(count * channels));
  for (std::int64_t i = 0; i < count; ++i)
    for (int c = 0; c < channels; ++c) {
      double v = double(sound.channel(c)[std::size_t(from + i)]) * scale;
      if (dithers) v += dither.unit() - dither.unit();
      const auto step = std::int64_t(std::clamp(std::nearbyint(v), -scale, scale - 1));
      out[std::size_t(i * channels + c)] = int(step * (std::int64_t(1) << (32 - bits)));
    }
}

bool isInteger(const EncodeOptions& options) {
  return options.format == FileFormat::Flac ||
         (options.format == FileFormat::Wav && options.samples != SampleFormat::Float32);
}
bool isExact(const EncodeOptions& options) {
  return options.format == FileFormat::Flac || options.format == FileFormat::Wav;
}

/// A new file as libsndfile sees it. What fails is remembered by the file: MP3's encoder does not
/// look at what its writes say.
SF_VIRTUAL_IO fileCalls() {
  SF_VIRTUAL_IO calls{};
  calls.get_filelen = [](void* user) { return sf_count_t(static_cast<NewFile*>(user)->size()); };
  calls.seek = [](sf_count_t offset, int whence, void* user) {
    return sf_count_t(static_cast<NewFile*>(user)->seek(offset, whence));
  };
  calls.read = [](void* to, sf_count_t count, void* user) {
    return sf_count_t(std::max(0L, static_cast<NewFile*>(user)->readSome(to, std::size_t(count))));
  };
  calls.write = [](const void* from, sf_count_t count, void* user) {
    return sf_count_t(
        std::max(0L, static_cast<NewFile*>(user)->writeSome(from, std::size_t(count))));
  };
  calls.tell = [](void* user) {
    return sf_count_t(static_cast<NewFile*>(user)->seek(0, SEEK_CUR));
  };
  return calls;
}

using SndFile = std::unique_ptr<SNDFILE, int (*)(SNDFILE*)>;

constexpr std::int64_t kWriteBlock = 16384;

/// @param hasher  told of every sample as it is in the file, where that is exact
bool writeAll(SNDFILE* file, const Sound& sound, const EncodeOptions& options,
              ContentHasher& hasher) {
  const int channels = sound.channels();
  const std::int64_t total = sound.frames().value;
  Random dither(0x7475767600000001ULL);
  std::vector<int> steps;
  std::vector<float> floats;
  for (std::int64_t from = 0; from < total; from += kWriteBlock) {
    const std::int64_t n = std::min(kWriteBlock, total - from);
    if (isInteger(options)) {
      interleaveIntegers(sound, from, n, options.samples == SampleFormat::Int16 ? 16 : 24, dither,
                         steps);
      if (sf_writef_int(file, steps.data(), n) != n) return false;
      hasher.add(steps.data(), steps.size() * sizeof steps[0]);
    } else {
      floats.resize(std::size_t(n * channels));
      for (std::int64_t i = 0; i < n; ++i)
        for (int c = 0; c < channels; ++c)
          floats[std::size_t(i * channels + c)] = sound.channel(c)[std::size_t(from + i)];
      if (sf_writef_float(file, floats.data(), n) != n) return false;
      hasher.add(floats.data(), floats.size() * sizeof floats[0]);
    }
  }
  return true;
}

/// Reads what was written to its end. @returns whether it is all there
bool readsBack(NewFile& written, const Sound& sound, const EncodeOptions& options,
               const std::string& hash) {
  SF_INFO info{};
  SF_VIRTUAL_IO calls = fileCalls();
  if (written.seek(0, SEEK_SET) < 0) return false;
  const SndFile file(sf_open_virtual(&calls, SFM_READ, &info, &written), sf_close);
  if (!file || info.channels != sound.channels()) return false;
  ContentHasher hasher;
  std::vector<int> steps(std::size_t(kWriteBlock * info.channels));
  std::vector<float> floats(steps.size());
  std::int64_t read = 0;
  for (;;) {
    const sf_count_t n = isInteger(options)
                             ? sf_readf_int(file.get(), steps.data(), kWriteBlock)
                             : sf_readf_float(file.get(), floats.data(), kWriteBlock);
    if (n <= 0) break;
    read += n;
    const auto count = std::size_t(n * info.channels);
    if (isInteger(options))
      hasher.add(steps.data(), count * sizeof steps[0]);
    else
      hasher.add(floats.data(), count * sizeof floats[0]);
  }
  if (sf_error(file.get()) != SF_ERR_NO_ERROR) return false;
  if (isExact(options)) return read == sound.frames().value && hasher.hex() == hash;
  return read >= sound.frames().value; // some encoders add silence
}

/// Writes, marks and syncs. @returns the file that is to be put in place
Result<NewFile> encoded(const Sound& sound, const std::filesystem::path& path,
                        const EncodeOptions& options, SF_INFO info, std::string& hash) {
  auto begun = NewFile::beside(path, options.mode);
  if (!begun) return begun;
  NewFile out = std::move(begun).value();
  SF_VIRTUAL_IO calls = fileCalls();
  SndFile file(sf_open_virtual(&calls, SFM_WRITE, &info, &out), sf_close);
  const Error bad{"The sound cannot be written in this format", path.string(),
                  "Choose another kind of file."};
  if (!file) return bad;
  sf_command(file.get(), SFC_SET_CLIPPING, nullptr, SF_TRUE);
  // That chunk holds the time of day; the same sound is to give the same file.
  sf_command(file.get(), SFC_SET_ADD_PEAK_CHUNK, nullptr, SF_FALSE);
  if (options.format == FileFormat::Wav && options.marks.any()) markWav(file.get(), options.marks);
  ContentHasher hasher;
  bool done = writeAll(file.get(), sound, options, hasher);
  done = sf_close(file.release()) == 0 && done;
  hash = hasher.hex();
  // Which call failed, and why, is known better by the file than by the library.
  if (auto synced = out.sync(); !synced) return synced.error();
  if (!done) return bad;
  if (options.format != FileFormat::Flac || !options.marks.any()) return out;
  auto second = NewFile::beside(path, options.mode);
  if (!second) return second;
  NewFile marked = std::move(second).value();
  const bool copied = markFlac(out, marked, options.marks, sound.frames());
  if (auto synced = marked.sync(); !synced) return synced.error();
  if (!copied) return bad;
  return marked;
}

} // namespace

Result<void> encodeFile(const Sound& sound, const std::filesystem::path& path,
                        const EncodeOptions& options) {
  if (options.format == FileFormat::Opus && sound.rate() != Hertz(48000)) {
    auto resampled = resample(sound, Hertz(48000));
    if (!resampled) return resampled.error();
    return encodeFile(**resampled, path, options);
  }
  SF_INFO info{};
  info.samplerate = toNearestIn(sound.rate().value, 1, 1'000'000);
  info.channels = sound.channels();
  info.format = sndfileFormat(options.format, options.samples);
  if (!sf_format_check(&info))
    return Error{"This kind of file cannot hold " + std::to_string(info.samplerate) + " Hz with " +
                     std::to_string(info.channels) + " channels",
                 path.string(), "Choose another rate or another kind of file."};
  std::string hash;
  auto written = encoded(sound, path, options, info, hash);
  if (!written) return written.error();
  NewFile file = std::move(written).value();
  if (!readsBack(file, sound, options, hash))
    return Error{"What was written cannot be read back whole", path.string(),
                 "Write it again, to another disc if it happens again; nothing was replaced."};
  return file.putInPlace(options.replace);
}

} // namespace tuvvo
