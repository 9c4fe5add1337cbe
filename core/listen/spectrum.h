// Short-time spectra, on FFTW3f. Not for the audio thread; any number of threads at once.
#pragma once

#include <complex>
#include <functional>
#include <memory>
#include <span>
#include <vector>

namespace tuvvo {

/// The transform of a fixed number of real samples.
class Fft {
public:
  /// @param size  even, 16 to 2^24
  explicit Fft(int size);
  ~Fft();
  Fft(const Fft&) = delete;
  Fft& operator=(const Fft&) = delete;

  [[nodiscard]] int size() const { return m_size; }
  /// The size samples to be transformed; fill before run().
  [[nodiscard]] std::span<float> input() { return {m_in, std::size_t(m_size)}; }
  /// @returns size / 2 + 1 bins, valid until the next run()
  std::span<const std::complex<float>> run();

private:
  int m_size;
  float *m_in, *m_half; ///< m_half: as half as many complex samples
  std::vector<float> m_turns;
  std::complex<float>* m_out;
  void* m_plan;
};

/// A complex-to-real transform of a fixed size: run() of what Fft gave is size times its input.
class InverseFft {
public:
  /// @param size  even, 16 to 2^24
  explicit InverseFft(int size);
  ~InverseFft();
  InverseFft(const InverseFft&) = delete;
  InverseFft& operator=(const InverseFft&) = delete;

  /// The size / 2 + 1 bins; fill before every run(), which uses them up.
  [[nodiscard]] std::span<std::complex<float>> input() {
    return {m_in, std::size_t(m_size / 2 + 1)};
  }
  /// @returns size samples, valid until the next run()
  std::span<const float> run();

private:
  int m_size;
  std::complex<float>* m_in;
  float* m_out;
  void* m_plan;
};

/// Frames by bins, row after row.
struct Matrix {
  int rows = 0, columns = 0;
  std::vector<float> values;
  Matrix() = default;
  Matrix(int r, int c) : rows(r), columns(c), values(std::size_t(r) * std::size_t(c), 0.0f) {}
  float& at(int r, int c) { return values[std::size_t(r) * std::size_t(columns) + std::size_t(c)]; }
  [[nodiscard]] float at(int r, int c) const {
    return values[std::size_t(r) * std::size_t(columns) + std::size_t(c)];
  }
  std::span<float> row(int r) {
    return {values.data() + std::size_t(r) * std::size_t(columns), std::size_t(columns)};
  }
  [[nodiscard]] std::span<const float> row(int r) const {
    return {values.data() + std::size_t(r) * std::size_t(columns), std::size_t(columns)};
  }
};

/// Magnitudes under a Hann window, frame after frame; frame t is centred on sample t · hop, and
/// what lies outside the samples counts as silence. A full-scale sine gives about size / 4.
/// @param bins  how many of the lowest magnitudes are wanted; 0 for all
/// @param take  called with the frame's number and its magnitudes (size / 2 + 1, or bins), valid
/// for the call
void forEachFrame(std::span<const float> samples, int size, int hop,
                  const std::function<void(int, std::span<const float>)>& take, int bins = 0);

/// Overlapping triangular filters with the given corner frequencies: band b rises from edges[b],
/// peaks at edges[b + 1] and ends at edges[b + 2].
class BandSummer {
public:
  BandSummer(const std::vector<double>& edgesHz, int fftSize, double rate);
  [[nodiscard]] int bands() const { return int(m_bands.size()); }
  /// The weighted mean of magnitudes in each band.
  void sum(std::span<const float> magnitudes, std::span<float> out) const;

private:
  struct Band {
    int first;
    std::vector<float> weights;
  };
  std::vector<Band> m_bands;
};

/// The middle value (upper of the two for even counts); 0 for none. Reorders what it is given.
[[nodiscard]] float medianOf(std::span<float> values);

} // namespace tuvvo
