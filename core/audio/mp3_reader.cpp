#include "audio/mp3_reader.h"

#include "base/text.h"

#include <fcntl.h>
#include <fstream>
#include <mpg123.h>
#include <mutex>
#include <unistd.h>

namespace tuvvo {

namespace {

mpg123_handle* handleOf(void* handle) { return static_cast<mpg123_handle*>(handle); }

} // namespace

bool looksLikeMp3(const std::filesystem::path& path) {
  std::ifstream in(path, std::ios::binary);
  unsigned char head[4] = {};
  in.read(reinterpret_cast<char*>(head), sizeof head);
  if (!in) return false;
  if (head[0] == 'I' && head[1] == 'D' && head[2] == '3') return true;
  // Eleven bits of sync; a layer; a bit rate that is not the forbidden one.
  if (head[0] == 0xff && (head[1] & 0xe0) == 0xe0 && (head[1] & 0x06) != 0 &&
      (head[2] & 0xf0) != 0xf0)
    return true;
  const std::string ending = lowerCase(path.extension().string());
  const std::string_view known(reinterpret_cast<const char*>(head), 4);
  return ending == ".mp3" && known != "RIFF" && known != "fLaC" && known != "OggS" &&
         known != "FORM";
}

Result<std::shared_ptr<Mp3Reader>> Mp3Reader::open(const std::filesystem::path& path) {
  const Error damaged{"No sound can be found in this MP3: it is damaged or cut off", path.string(),
                      "Copy it again from where it came from."};
  static std::once_flag once; // harmless in newer versions of the library, needed in older ones
  std::call_once(once, [] { mpg123_init(); });
  std::shared_ptr<Mp3Reader> file(new Mp3Reader);
  file->m_handle = mpg123_new(nullptr, nullptr);
  mpg123_handle* handle = handleOf(file->m_handle);
  if (!handle) return damaged;
  mpg123_param(handle, MPG123_ADD_FLAGS, MPG123_FORCE_FLOAT | MPG123_GAPLESS | MPG123_QUIET, 0);
  mpg123_param(handle, MPG123_REMOVE_FLAGS, MPG123_AUTO_RESAMPLE, 0);
  file->m_fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  long rate = 0;
  int channels = 0, encoding = 0;
  if (file->m_fd < 0 || mpg123_open_fd(handle, file->m_fd) != MPG123_OK ||
      mpg123_getformat(handle, &rate, &channels, &encoding) != MPG123_OK ||
      encoding != MPG123_ENC_FLOAT_32)
    return damaged;
  file->m_rate = int(rate);
  file->m_channels = channels;
  // What follows may have other channels, which the library brings to these. Another rate is told
  // by it and ends the sound in read(): where it is not allowed here, the library complains aloud.
  mpg123_format_none(handle);
  const long* rates = nullptr;
  std::size_t count = 0;
  mpg123_rates(&rates, &count);
  for (std::size_t i = 0; i < count; ++i)
    mpg123_format(handle, rates[i], channels, MPG123_ENC_FLOAT_32);
  file->m_frames = std::max<std::int64_t>(0, mpg123_length(handle));
  return file;
}

Mp3Reader::~Mp3Reader() {
  if (m_handle) {
    mpg123_close(handleOf(m_handle));
    mpg123_delete(handleOf(m_handle));
  }
  if (m_fd >= 0) ::close(m_fd);
}

std::int64_t Mp3Reader::read(float* to, std::int64_t frames) {
  const std::size_t frameBytes = sizeof(float) * std::size_t(m_channels);
  const std::size_t wanted = std::size_t(frames) * frameBytes;
  std::size_t done = 0;
  while (!m_failed && done < wanted) {
    std::size_t got = 0;
    const int code = mpg123_read(handleOf(m_handle), reinterpret_cast<unsigned char*>(to) + done,
                                 wanted - done, &got);
    done += got;
    if (code == MPG123_OK && got > 0) continue;
    if (code == MPG123_OK) break;
    if (code == MPG123_NEW_FORMAT) {
      long rate = 0;
      int channels = 0, encoding = 0;
      if (mpg123_getformat(handleOf(m_handle), &rate, &channels, &encoding) == MPG123_OK &&
          rate == m_rate && channels == m_channels)
        continue;
    }
    m_failed = code != MPG123_DONE;
    break;
  }
  return std::int64_t(done / frameBytes);
}

} // namespace tuvvo
