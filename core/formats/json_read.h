// Reading JSON that nobody vouches for. Inner part of formats/ and crate/.
#pragma once

#include "base/convert.h"
#include "base/jobs.h"
#include "model/extra.h"

#include <nlohmann/json.hpp>

#include <array>
#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace tuvvo::json_read {

using Json = nlohmann::ordered_json;

/// Thrown inside formats/ and crate/ only, and turned into an Error, or into a kept entry, at their
/// borders.
struct Bad {
  std::string what;
};

struct ParseLimits {
  std::size_t bytes = std::size_t(512) << 20;
  std::size_t values = 60'000'000; ///< numbers, texts, lists and objects together
  int depth = 32;
};

/// Parses text, in a time that grows with its length. Of a name that stands twice in an object the
/// last one counts.
/// @param job  told how far it is, and asked whether to go on; may be null
/// Throws Bad for what is no JSON, ends too early or passes a limit, and when the job is cancelled.
[[nodiscard]] Json parse(const std::string& bytes, JobContext* job = nullptr,
                         const ParseLimits& limits = {});

/// A field of the outermost object that is no list and no object, without reading what comes after
/// it; nothing where it is not there or the text ends before.
[[nodiscard]] std::optional<Json> firstField(const std::string& bytes, const char* name);

/// Adds a field without looking whether there is one of that name: for objects of any size.
void append(Json& object, const std::string& name, Json value);

/// What is met in a file and not understood, for one message; and the ids that may not be given
/// again.
class Reading {
public:
  /// @param what  "the word \"ceiling\" for \"row\""; each is told once
  void met(const std::string& what);
  void metBeyondRange(const std::string& name);
  /// Ids inside what was set aside.
  void keepIds(const Json& json);
  void keepId(std::uint64_t id);
  [[nodiscard]] std::uint64_t highestId() const { return m_highest; }
  [[nodiscard]] bool any() const { return !m_met.empty(); }
  /// Anything but figures that had to be brought into their range.
  [[nodiscard]] bool misread() const { return m_count > 0; }
  /// "a row "ceiling", a treatment "melt" and 3 more"
  [[nodiscard]] std::string text() const;
  JobContext* job = nullptr; ///< asked now and then whether to go on

private:
  std::map<std::string, int> m_met;
  int m_count = 0;
  std::uint64_t m_highest = 0;
};

inline constexpr std::uint64_t kHighestId = 0x7fffffff;

/// The fields of one object. Every question says what is known; what is left over, and what could
/// not be taken as it stands, is kept by rest().
class Fields {
public:
  /// Throws Bad for what is no object.
  Fields(const Json& object, Reading& reading);

  /// Null where it is not there, or is null.
  [[nodiscard]] const Json* find(const char* name);
  /// A finite number brought into a range; the fallback where there is none.
  double number(const char* name, double low, double high, double fallback);
  std::int64_t integer(const char* name, std::int64_t low, std::int64_t high,
                       std::int64_t fallback);
  /// Cut at so many bytes, between characters.
  std::string text(const char* name, std::string fallback = {}, std::size_t longest = 4096);
  bool flag(const char* name, bool fallback = false);
  /// One of some words; the first where it is none of them.
  template <class Enum, std::size_t N>
  Enum choice(const char* name, const std::array<const char*, N>& words) {
    return Enum(choiceOf(name, words.data(), N));
  }
  /// Such a word where there is one.
  template <class Enum, std::size_t N>
  std::optional<Enum> choiceIf(const char* name, const std::array<const char*, N>& words) {
    const std::size_t at = placeOf(name, words.data(), N);
    return at < N ? std::optional(Enum(at)) : std::nullopt;
  }
  /// A list, empty where there is none. For lists whose entries are read without entries().
  const Json& list(const char* name, std::size_t most);
  /// Reads each entry of a list; those that `read` throws Bad for are kept as they are, as are
  /// those past the most.
  template <class Read> void entries(const char* name, std::size_t most, const Read& read) {
    m_lists.push_back(name);
    const Json* found = find(name);
    if (!found) return;
    if (!found->is_array()) return odd(name, "list");
    std::size_t taken = 0;
    for (const auto& entry : *found) {
      if (m_reading.job && m_reading.job->cancelled()) throw Bad{"reading was cancelled"};
      if (taken >= most) {
        setAside(name, entry, "more entries of \"" + std::string(name) + "\" than there can be");
        continue;
      }
      try {
        read(entry);
        ++taken;
      } catch (const Bad& bad) {
        setAside(name, entry, bad.what);
      }
    }
  }
  /// As written by older versions: read under another name, and not written again.
  void older(const char* name);
  /// Whether all of it was taken shows when it is compared with what would be written.
  void mayDiffer() { m_odd = true; }
  /// An entry of a list that was read and has no place after all.
  void setAside(const char* name, const Json& entry, const std::string& why);
  /// What was found is not what it should be.
  void odd(const char* name, const char* expected);

  /// Reads an object inside this one, where there is one; what is left of it is kept here.
  template <class Read> void inside(const char* name, const Read& read) {
    const Json* found = find(name);
    if (!found) return;
    if (!found->is_object()) return odd(name, "object");
    Fields inner(*found, m_reading);
    read(inner);
    m_odd = m_odd || !inner.plain();
  }
  /// Whether all was known and taken as it stands.
  [[nodiscard]] bool plain() const;
  /// What has to be kept beside the value that was read.
  /// @param written  makes the JSON that the value would be written as, without the lists that
  ///                 entries() read; called only where something has to be kept
  template <class Written> [[nodiscard]] Extra rest(const Written& written) {
    return plain() ? Extra() : restBeside(written());
  }
  [[nodiscard]] Reading& reading() { return m_reading; }

private:
  [[nodiscard]] Extra restBeside(const Json& written);
  std::size_t choiceOf(const char* name, const char* const* words, std::size_t count);
  std::size_t placeOf(const char* name, const char* const* words, std::size_t count);

  const Json& m_object;
  Reading& m_reading;
  std::uint64_t m_taken = 0; ///< a bit for each of the first 64 fields
  bool m_odd = false;
  std::vector<const char*> m_lists, m_older;
  std::vector<std::pair<const char*, Json>> m_aside;
};

/// Puts back what was kept.
void addRest(Json& object, const Extra& extra);
/// Adds entries to what is kept.
[[nodiscard]] Extra withEntries(const Extra& extra, const char* list, const Json& entries);

template <class Enum, std::size_t N>
const char* nameIn(const std::array<const char*, N>& names, Enum value) {
  return names[std::size_t(value)];
}

} // namespace tuvvo::json_read
