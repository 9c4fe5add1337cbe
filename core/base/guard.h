// Where exceptions end: at the border of a module they become an Error.
#pragma once

#include "base/result.h"

#include <exception>
#include <new>

namespace tuvvo {

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
    return Error{std::string(doing) + " needs more memory than there is", where,
                 "Close other programs, or use a smaller file."};
  } catch (const std::exception& trouble) {
    return Error{std::string(doing) + " failed (" + trouble.what() + ")", where,
                 "Nothing was changed."};
  }
}

} // namespace tuvvo
