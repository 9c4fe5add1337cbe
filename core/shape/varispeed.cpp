#include "shape/varispeed.h"

#include "base/convert.h"

#include <algorithm>
#include <array>

namespace tuvvo {

namespace {
constexpr std::size_t kPlayedBlock = 4096;
constexpr double kAroundS = 0.25;
} // namespace

Varispeed::Varispeed(const Sound& sound, Hertz rate, double fromS, double toS)
    : m_rate(rate.value), m_soundRate(sound.rate().value), m_durationS(sound.duration().value) {
  const auto frameAt = [&](double s) {
    const double all = double(sound.frames().value);
    return toWhole<std::int64_t>(std::clamp(s * m_soundRate, 0.0, all));
  };
  m_first = frameAt(fromS - kAroundS);
  const std::int64_t last = std::max(m_first, frameAt(toS + kAroundS));
  for (int c = 0; c < sound.channels(); ++c) {
    const auto samples =
        sound.channel(c).subspan(std::size_t(m_first), std::size_t(last - m_first));
    Samples padded(samples.size() + 2 * kPad, 0.0f); // windows reach over the ends
    std::copy(samples.begin(), samples.end(), padded.begin() + std::ptrdiff_t(kPad));
    m_padded.push_back(std::move(padded));
  }
}

void Varispeed::add(double fromS, double speed, std::span<float> left,
                    std::span<float> right) const {
  const double step = speed * m_soundRate / m_rate;
  const auto& kernel = m_bank.forStep(step);
  std::array<float, kPlayedBlock> l{}, r{};
  for (std::size_t done = 0; done < left.size();) {
    const std::size_t n = std::min(kPlayedBlock, left.size() - done);
    const SincBank::Track track{
        m_padded.front().data(), m_padded.back().data(),
        fromS * m_soundRate - double(m_first) + step * double(done) + double(kPad), step};
    const double end = track.from + step * double(n);
    if (track.from >= kernel.taps && end + kernel.taps < double(m_padded[0].size())) {
      SincBank::run(kernel, track, 0, int(n), l.data(), r.data());
      for (std::size_t i = 0; i < n; ++i) {
        left[done + i] += l[i];
        right[done + i] += r[i];
      }
    }
    done += n;
  }
}

} // namespace tuvvo
