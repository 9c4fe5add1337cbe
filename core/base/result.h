// How anything that can fail says so: a value, or a message for a person. Exceptions stay inside
// the module that met them.
#pragma once

#include "base/text.h"

#include <cassert>
#include <optional>
#include <string>
#include <utility>
#include <variant>

namespace tuvvo {

/// What went wrong, to which file or thing, and what the person can do about it.
struct Error {
  std::string what;      ///< one plain clause without a full stop: "This is not a sound file"
  std::string where;     ///< the file or thing; may be empty
  std::string remedy;    ///< what to do, one sentence with its full stop; may be empty
  bool replaces = false; ///< refused for one reason alone: it would write over what is there

  /// "where: what. remedy", as it can be shown: names may hold anything.
  [[nodiscard]] std::string text() const {
    std::string out = where.empty() ? what : where + ": " + what;
    out += '.';
    if (!remedy.empty()) out += ' ' + remedy;
    return shown(out);
  }
};

/// A value or an Error. Asking for the side that is not there is our own mistake (assert).
template <class T> class [[nodiscard]] Result {
public:
  Result(T value) : m_state(std::in_place_index<0>, std::move(value)) {}
  Result(Error error) : m_state(std::in_place_index<1>, std::move(error)) {}

  [[nodiscard]] bool ok() const { return m_state.index() == 0; }
  explicit operator bool() const { return ok(); }
  [[nodiscard]] const T& value() const& {
    assert(ok());
    return *std::get_if<0>(&m_state);
  }
  [[nodiscard]] T&& value() && {
    assert(ok());
    return std::move(*std::get_if<0>(&m_state));
  }
  [[nodiscard]] const Error& error() const {
    assert(!ok());
    return *std::get_if<1>(&m_state);
  }
  const T& operator*() const& { return value(); }
  const T* operator->() const { return &value(); }

private:
  std::variant<T, Error> m_state;
};

/// Success without a value, or an Error.
template <> class [[nodiscard]] Result<void> {
public:
  Result() = default;
  Result(Error error) : m_error(std::move(error)) {}
  [[nodiscard]] bool ok() const { return !m_error; }
  explicit operator bool() const { return ok(); }
  [[nodiscard]] const Error& error() const {
    assert(m_error);
    return *m_error;
  }

private:
  std::optional<Error> m_error;
};

} // namespace tuvvo
