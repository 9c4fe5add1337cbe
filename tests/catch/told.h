// What a catcher told, kept for the test's thread.
#pragma once

#include "catch/catcher.h"

#include <mutex>
#include <optional>

namespace tuvvo::test {

class Told {
public:
  Catcher::Tell taker() {
    return [this](CatchEvent told) {
      std::lock_guard lock(m_mutex);
      m_told.push_back(std::move(told));
    };
  }
  template <class T> std::vector<T> all() {
    std::lock_guard lock(m_mutex);
    std::vector<T> out;
    for (const auto& told : m_told)
      if (const auto* one = std::get_if<T>(&told)) out.push_back(*one);
    return out;
  }
  template <class T> std::optional<T> last() {
    auto all = this->all<T>();
    return all.empty() ? std::nullopt : std::optional(std::move(all.back()));
  }
  void clear() {
    std::lock_guard lock(m_mutex);
    m_told.clear();
  }

private:
  std::mutex m_mutex;
  std::vector<CatchEvent> m_told;
};

} // namespace tuvvo::test
