#include "listen/recurrent.h"

#include "base/wide.h"

#include <bit>
#include <cstdint>

namespace tuvvo {

// The inner loop runs along the outputs, four inputs at once so that every sum is fetched a quarter
// as often.
TUVVO_WIDE void addProduct(const float* weights, std::size_t inputs, std::size_t outputs,
                           const float* in, float* sums) {
  const std::size_t whole = inputs / 4 * 4;
  for (std::size_t i = 0; i < whole; i += 4) {
    const float *a = weights + i * outputs, *b = a + outputs, *c = b + outputs, *d = c + outputs;
    for (std::size_t o = 0; o < outputs; ++o)
      sums[o] += (a[o] * in[i] + b[o] * in[i + 1]) + (c[o] * in[i + 2] + d[o] * in[i + 3]);
  }
  for (std::size_t i = whole; i < inputs; ++i)
    for (std::size_t o = 0; o < outputs; ++o) sums[o] += weights[i * outputs + o] * in[i];
}

namespace {

/// The logistic function of values, about as exact as they are, without a call, so that the
/// compiler can take several at once: e to the power of v is 2^n times a polynomial for what is
/// left, as in Cephes (Moshier 1992), whose coefficients these are.
TUVVO_WIDE void turnLogistic(float* values, std::size_t count) {
  // By itself, so that no way leads round the rest. What is no number counts as the least.
  for (std::size_t i = 0; i < count; ++i) {
    const float v = values[i] > -80 ? values[i] : -80.0f;
    values[i] = v < 80 ? v : 80.0f;
  }
  for (std::size_t i = 0; i < count; ++i) {
    const float v = -values[i], scaled = v * 1.44269504f;
    const auto whole = std::int32_t(scaled + std::copysign(0.5f, scaled));
    const float n = float(whole), x = (v - n * 0.693359375f) + n * 2.12194440e-4f;
    float part = 1.9875691500e-4f;
    part = part * x + 1.3981999507e-3f;
    part = part * x + 8.3334519073e-3f;
    part = part * x + 4.1665795894e-2f;
    part = part * x + 1.6666665459e-1f;
    part = part * x + 5.0000001201e-1f;
    part = part * x * x + x + 1;
    values[i] = 1 / (1 + part * std::bit_cast<float>((whole + 127) << 23));
  }
}

} // namespace

TUVVO_WIDE void turnGates(float* in, const float* own, std::size_t size, float* state) {
  for (std::size_t i = 0; i < 2 * size; ++i) in[i] += own[i];
  turnLogistic(in, 2 * size);
  // The hyperbolic tangent is the logistic function of twice as much, from −1 to 1.
  const float *reset = in, *update = in + size;
  float* fresh = in + 2 * size;
  for (std::size_t s = 0; s < size; ++s) fresh[s] = 2 * (fresh[s] + reset[s] * own[2 * size + s]);
  turnLogistic(fresh, size);
  for (std::size_t s = 0; s < size; ++s)
    state[s] = (1 - update[s]) * (2 * fresh[s] - 1) + update[s] * state[s];
}

} // namespace tuvvo
