#include "audio/encode.h"

#include "audio/file_marks.h"
#include "audio/resample.h"
#include "base/files.h"
#include "base/random.h"

#include <algorithm>
#include <cmath>
#include <sndfile.h>
#include <unistd.h>

namespace tuvvo {

Result<FileFormat> formatFromName(const std::filesystem::path& path) {
  std::string ending = path.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return char(std::tolower(c)); });
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

bool writeAll(SNDFILE* file, const Sound& sound, FileFormat format, SampleFormat samples) {
  constexpr std::int64_t block = 16384;
  const int channels = sound.channels();
  const std::int64_t total = sound.frames().value;
  const bool integers =
      format == FileFormat::Flac || (format == FileFormat::Wav && samples != SampleFormat::Float32);
  Random dither(0x7475767600000001ULL);
  std::vector<int> steps;
  std::vector<float> floats;
  for (std::int64_t from = 0; from < total; from += block) {
    const std::int64_t n = std::min(block, total - from);
    if (integers) {
      interleaveIntegers(sound, from, n, samples == SampleFormat::Int16 ? 16 : 24, dither, steps);
      if (sf_writef_int(file, steps.data(), n) != n) return false;
    } else {
      floats.resize(std::size_t(n * channels));
      for (std::int64_t i = 0; i < n; ++i)
        for (int c = 0; c < channels; ++c)
          floats[std::size_t(i * channels + c)] = sound.channel(c)[std::size_t(from + i)];
      if (sf_writef_float(file, floats.data(), n) != n) return false;
    }
  }
  return true;
}

} // namespace

Result<void> encodeFile(const Sound& sound, const std::filesystem::path& path, FileFormat format,
                        SampleFormat samples, const FileMarks& marks) {
  if (format == FileFormat::Opus && sound.rate() != Hertz(48000)) {
    auto resampled = resample(sound, Hertz(48000));
    if (!resampled) return resampled.error();
    return encodeFile(**resampled, path, format, samples, marks);
  }
  SF_INFO info{};
  info.samplerate = int(std::llround(sound.rate().value));
  info.channels = sound.channels();
  info.format = sndfileFormat(format, samples);
  if (!sf_format_check(&info))
    return Error{"This kind of file cannot hold " + std::to_string(info.samplerate) + " Hz with " +
                     std::to_string(info.channels) + " channels",
                 path.string(), "Choose another rate or another kind of file."};
  const auto temporary = path.string() + ".new" + std::to_string(::getpid());
  SNDFILE* file = sf_open(temporary.c_str(), SFM_WRITE, &info);
  if (!file)
    return Error{std::string("The file cannot be created (") + sf_strerror(nullptr) + ")",
                 path.string(), "Check that the folder is there and can be written to."};
  sf_command(file, SFC_SET_CLIPPING, nullptr, SF_TRUE);
  if (format == FileFormat::Wav && marks.any()) markWav(file, marks);
  const bool written = writeAll(file, sound, format, samples);
  bool closed = sf_close(file) == 0;
  if (closed && format == FileFormat::Flac && marks.any())
    closed = markFlac(temporary, marks, sound.frames());
  if (!written || !closed) {
    ::unlink(temporary.c_str());
    return Error{"Writing the sound failed", path.string(),
                 "Make room on the disc or choose another folder."};
  }
  auto moved = moveIntoPlace(temporary, path);
  if (!moved) ::unlink(temporary.c_str());
  return moved;
}

} // namespace tuvvo
