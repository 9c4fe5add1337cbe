// Where exceptions end: at the border of a module they become an Error.
#pragma once

#include "base/result.h"

#include <exception>
#include <new>

namespace tuvvo {

/// Says that memory ran out, in a few letters where even a sentence finds no room any more.
inline Error noMemory(const char* doing, const std::string& where) noexcept {
  Error error;
  try {
    error.what = std::string(doing) + " needs more memory than there is";
    error.where = where;
    error.remedy = "Close other programs, or use a smaller file; nothing was changed.";
  } catch (const std::bad_alloc&) {
    error.what.clear();
    error.where.clear();
    error.remedy.clear();
    error.what.assign("No memory left"); // short enough to need none
  }
  return error;
}

/// Runs work and turns what it throws into an Error. Memory that runs out is said as such; anything
/// else is our own mistake or a library's, and is said with its own words.
/// @param doing  "Reading the project"
/// @param where  the file or thing
/// @param work   returns a Result
template <class Work>
auto guarded(const char* doing, const std::string& where, const Work& work) -> decltype(work()) {
  try {
    return work();
  } catch (const std::bad_alloc&) {
    return noMemory(doing, where);
  } catch (const std::exception& trouble) {
    return Error{std::string(doing) + " failed (" + trouble.what() + ")", where,
                 "Nothing was changed."};
  }
}

} // namespace tuvvo
