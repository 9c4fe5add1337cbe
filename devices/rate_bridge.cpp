#include "devices/rate_bridge.h"

#include "base/convert.h"

#include <algorithm>

namespace tuvvo {

RateBridge::RateBridge(ProcessSound source, Hertz from, Hertz to, int most)
    : m_source(std::move(source)), m_step(from.value / to.value),
      m_outKernel(m_bank.forStep(m_step)), m_inKernel(m_bank.forStep(1 / m_step)),
      m_out(toWhole<std::size_t>(double(most) * m_step) + std::size_t(m_outKernel.taps) * 2 + 16),
      m_in(std::size_t(most) + toWhole<std::size_t>(double(m_outKernel.taps) / m_step) +
           std::size_t(m_inKernel.taps) * 2 + 64),
      m_inLeft(m_out.left.size()), m_inRight(m_out.left.size()) {
  m_out.held = m_outKernel.taps / 2 - 1; // silence before the first frame
  // What is fetched runs ahead by the kernel's reach at the first block: so much silence comes in.
  m_in.held = toWhole<int>(double(m_outKernel.taps) / m_step) + m_inKernel.taps + 4;
}

void RateBridge::Stereo::drop() {
  const int done = std::min(toWhole<int>(place), held);
  std::copy(left.begin() + done, left.begin() + held, left.begin());
  std::copy(right.begin() + done, right.begin() + held, right.begin());
  held -= done;
  place -= done;
}

/// The next frames of the engine, with what came in brought to its rate.
void RateBridge::ask(int frames, bool input) {
  SoundBlock block{m_out.left.data() + m_out.held, m_out.right.data() + m_out.held, nullptr,
                   nullptr, frames};
  if (input) {
    const int centre = m_inKernel.taps / 2 - 1;
    const double step = 1 / m_step;
    SincBank::run(m_inKernel,
                  {m_in.left.data() + centre, m_in.right.data() + centre, m_in.place, step}, 0,
                  frames, m_inLeft.data(), m_inRight.data());
    m_in.place += step * frames;
    m_in.drop();
    block.inLeft = m_inLeft.data();
    block.inRight = m_inRight.data();
  }
  m_source(block);
  m_out.held += frames;
}

void RateBridge::fill(const SoundBlock& block) {
  if (block.inLeft) {
    const int room = int(m_in.left.size()) - m_in.held, n = std::min(block.frames, room);
    std::copy_n(block.inLeft, n, m_in.left.begin() + m_in.held);
    std::copy_n(block.inRight, n, m_in.right.begin() + m_in.held);
    m_in.held += n;
  }
  // Everything that the last output's kernel reaches is fetched first, in one call.
  const int needed = toWhole<int>(m_out.place + m_step * (block.frames - 1)) + m_outKernel.taps + 1;
  if (needed > m_out.held) ask(needed - m_out.held, block.inLeft != nullptr);
  const int centre = m_outKernel.taps / 2 - 1;
  SincBank::run(m_outKernel,
                {m_out.left.data() + centre, m_out.right.data() + centre, m_out.place, m_step}, 0,
                block.frames, block.left, block.right);
  m_out.place += m_step * block.frames;
  m_out.drop();
}

} // namespace tuvvo
