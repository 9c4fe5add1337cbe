#include "catch/take_file.h"

#include "base/convert.h"
#include "base/files.h"
#include "formats/json_names.h"
#include "play/score.h"

#include <fcntl.h>
#include <sndfile.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cstring>

namespace tuvvo {

using namespace json_read;
namespace fs = std::filesystem;

namespace {

constexpr std::uint64_t kLeastFreeSpace = std::uint64_t(16) << 20; ///< left for everything else
constexpr int kBytesAFrame = 8;
constexpr std::size_t kMostTakes = 2000;

std::string toText(const TakeAbout& about, bool whole) {
  const Json json{{"format", "tuvvo take"},
                  {"input", about.input},
                  {"when", about.when},
                  {"settings", about.settings},
                  {"whole", whole}};
  return json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

fs::path besides(const fs::path& take) { return fs::path(take).replace_extension(".json"); }

std::string fileName(const std::string& when) {
  std::string out = "take ";
  for (char c : when) out += c == ':' ? '.' : c == '/' ? '-' : c;
  return out;
}

} // namespace

/// The open file, as libsndfile sees it.
struct TakeFile::File {
  int fd = -1;
  SNDFILE* sound = nullptr;
  sf_count_t at = 0, length = 0;
  int trouble = 0; ///< errno of the first call that failed
  std::vector<float> interleaved;

  ~File() {
    if (sound) sf_close(sound);
    if (fd >= 0) discCalls().close(fd);
  }

  SF_VIRTUAL_IO calls() {
    SF_VIRTUAL_IO io{};
    io.get_filelen = [](void* self) { return static_cast<File*>(self)->length; };
    io.tell = [](void* self) { return static_cast<File*>(self)->at; };
    io.seek = [](sf_count_t offset, int whence, void* self) {
      auto* file = static_cast<File*>(self);
      const sf_count_t from = whence == SEEK_SET ? 0 : whence == SEEK_CUR ? file->at : file->length;
      return file->at = std::max<sf_count_t>(0, from + offset);
    };
    io.read = [](void* bytes, sf_count_t count, void* self) -> sf_count_t {
      auto* file = static_cast<File*>(self);
      const auto got = ::pread(file->fd, bytes, std::size_t(count), file->at);
      if (got > 0) file->at += got;
      return std::max<sf_count_t>(0, got);
    };
    io.write = [](const void* bytes, sf_count_t count, void* self) -> sf_count_t {
      return static_cast<File*>(self)->write(bytes, count);
    };
    return io;
  }

  sf_count_t write(const void* bytes, sf_count_t count) {
    if (trouble != 0) return 0;
    if (::lseek(fd, at, SEEK_SET) < 0) trouble = errno;
    sf_count_t done = 0;
    while (trouble == 0 && done < count) {
      const long n =
          discCalls().write(fd, static_cast<const char*>(bytes) + done, std::size_t(count - done));
      if (n < 0 && errno == EINTR) continue;
      if (n <= 0)
        trouble = n < 0 ? errno : ENOSPC;
      else
        done += n;
    }
    at += done;
    length = std::max(length, at);
    return done;
  }
};

TakeFile::TakeFile() : m_file(std::make_unique<File>()) {}
TakeFile::~TakeFile() = default;

Result<std::unique_ptr<TakeFile>> TakeFile::begin(const fs::path& folder, const TakeAbout& about) {
  if (auto made = makeFolder(folder); !made) return made.error();
  std::unique_ptr<TakeFile> take(new TakeFile);
  take->m_about = about;
  const auto cannot = [&](int why) {
    return Error{std::string("A take cannot be begun (") + std::strerror(why) + ")",
                 folder.string(), "Make room on the disc, or check that it may be written to."};
  };
  for (int n = 1; take->m_file->fd < 0; ++n) {
    take->m_path =
        folder / (fileName(about.when) + (n > 1 ? " " + std::to_string(n) : "") + ".wav");
    take->m_file->fd =
        discCalls().open(take->m_path.c_str(), O_CREAT | O_EXCL | O_RDWR | O_CLOEXEC, 0666);
    if (take->m_file->fd < 0 && (errno != EEXIST || n > 1000)) return cannot(errno);
  }
  if (auto noted = writeFileAtomically(besides(take->m_path), toText(about, false)); !noted)
    return noted.error();
  SF_INFO info{};
  info.samplerate = toWhole<int>(kEngineRate.value);
  info.channels = 2;
  info.format = SF_FORMAT_RF64 | SF_FORMAT_FLOAT;
  auto io = take->m_file->calls();
  take->m_file->sound = sf_open_virtual(&io, SFM_WRITE, &info, take->m_file.get());
  if (!take->m_file->sound) return cannot(take->m_file->trouble != 0 ? take->m_file->trouble : EIO);
  sf_command(take->m_file->sound, SFC_RF64_AUTO_DOWNGRADE, nullptr, SF_TRUE);
  return take;
}

Result<void> TakeFile::flush() {
  sf_command(m_file->sound, SFC_UPDATE_HEADER_NOW, nullptr, 0);
  m_flushed = m_frames;
  if (m_file->trouble == 0 && discCalls().fsync(m_file->fd) != 0) m_file->trouble = errno;
  if (m_file->trouble == 0) return {};
  return Error{std::string("The take could not be written on (") + std::strerror(m_file->trouble) +
                   ")",
               m_path.string(), "What came before is kept. Make room on the disc."};
}

Result<void> TakeFile::write(const float* left, const float* right, int frames) {
  auto& mixed = m_file->interleaved;
  mixed.resize(std::size_t(frames) * 2);
  for (int i = 0; i < frames; ++i) {
    mixed[std::size_t(i) * 2] = left[i];
    mixed[std::size_t(i) * 2 + 1] = right[i];
  }
  if (m_file->trouble == 0)
    m_frames += std::max<sf_count_t>(0, sf_writef_float(m_file->sound, mixed.data(), frames));
  if (m_file->trouble != 0 || double(m_frames - m_flushed) >= kFlushS * kEngineRate.value)
    return flush();
  return {};
}

Result<void> TakeFile::finish() {
  if (auto flushed = flush(); !flushed) return flushed;
  sf_close(m_file->sound);
  m_file->sound = nullptr;
  if (m_file->trouble != 0) return flush();
  return writeFileAtomically(besides(m_path), toText(m_about, true));
}

std::vector<FoundTake> takesIn(const fs::path& folder) {
  std::vector<std::pair<fs::file_time_type, FoundTake>> found;
  std::error_code code;
  for (const auto& entry : fs::directory_iterator(folder, code)) {
    if (entry.path().extension() != ".wav" || found.size() >= kMostTakes) continue;
    FoundTake take;
    take.path = entry.path();
    if (const auto bytes = readFile(besides(take.path), 1 << 16)) {
      try {
        const Json json = parse(*bytes);
        Reading reading;
        Fields f(json, reading);
        take.about = {f.text("input"), f.text("when"), f.text("settings")};
        take.whole = f.flag("whole", true);
      } catch (const Bad&) {
        take.whole = false; // nobody knows; the person may look
      }
    }
    SF_INFO info{};
    SNDFILE* sound = sf_open(take.path.c_str(), SFM_READ, &info);
    if (!sound) continue;
    sf_close(sound);
    if (info.frames <= 0 || info.samplerate <= 0) continue;
    take.length = Seconds(double(info.frames) / info.samplerate);
    found.emplace_back(entry.last_write_time(code), std::move(take));
  }
  std::sort(found.begin(), found.end(),
            [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<FoundTake> out;
  for (auto& [when, take] : found) out.push_back(std::move(take));
  return out;
}

Result<void> markWhole(const FoundTake& take) {
  return writeFileAtomically(besides(take.path), toText(take.about, true));
}

std::optional<Seconds> roomIn(const fs::path& folder) {
  std::error_code code;
  fs::path there = folder;
  while (!there.empty() && there != there.root_path() && !fs::exists(there, code))
    there = there.parent_path();
  const auto space = fs::space(there, code);
  if (code || space.available == std::uintmax_t(-1)) return std::nullopt;
  const auto free = space.available > kLeastFreeSpace ? space.available - kLeastFreeSpace : 0;
  return Seconds(double(free) / (kBytesAFrame * kEngineRate.value));
}

} // namespace tuvvo
