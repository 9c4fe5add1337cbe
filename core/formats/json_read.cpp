#include "formats/json_read.h"

#include "base/text.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace tuvvo::json_read {

namespace {

constexpr int kMostTold = 4;
constexpr const char* kEmptyList = "[]";
constexpr std::size_t kTracked = 64;

using Members = std::vector<Json::object_t::value_type>;

std::string dumped(const Json& json) {
  return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::string escaped(const std::string& name) { // RFC 6901, section 3
  std::string out;
  for (char c : name) out += c == '~' ? "~0" : c == '/' ? "~1" : std::string(1, c);
  return out;
}

const Json* memberOf(const Json& object, const std::string& name) {
  const auto found = object.find(name);
  return found == object.end() ? nullptr : &*found;
}

void addDifferences(const Json& read, const Json& written, const std::string& path,
                    std::vector<Extra::Field>& out) {
  for (const auto& [name, value] : read.items()) {
    const Json* mine = memberOf(written, name);
    const std::string place = path + "/" + escaped(name);
    if (!mine)
      out.push_back({place, dumped(value), {}, false});
    else if (mine->is_object() && value.is_object())
      addDifferences(value, *mine, place, out);
    else if (*mine != value)
      out.push_back({place, dumped(value), dumped(*mine), false});
  }
}

/// By our own parser, as what was kept may be of any size.
Json parsedAgain(const std::string& text) {
  try {
    return parse(text);
  } catch (const Bad&) {
    return nullptr;
  }
}

void addField(Json& object, const Extra::Field& field) {
  // The path is walked by hand: what it leads through may be gone, and then it goes as well.
  Json* at = &object;
  std::string name;
  for (std::size_t from = 1; from <= field.path.size();) {
    const std::size_t end = std::min(field.path.find('/', from), field.path.size());
    const std::string part = field.path.substr(from, end - from);
    name.clear();
    for (std::size_t i = 0; i < part.size(); ++i)
      if (part[i] == '~' && i + 1 < part.size())
        name += part[++i] == '1' ? '/' : '~';
      else
        name += part[i];
    from = end + 1;
    if (from > field.path.size()) break;
    const auto next = at->find(name);
    if (next == at->end() || !next->is_object()) return;
    at = &*next;
  }
  if (!at->is_object()) return;
  const auto there = at->find(name);
  if (field.entries) {
    const Json more = parsedAgain(field.text);
    if (!more.is_array()) return;
    if (there == at->end())
      append(*at, name, more);
    else if (there->is_array())
      there->insert(there->end(), more.begin(), more.end());
  } else if (there == at->end()) {
    if (field.taken.empty() || field.taken == kEmptyList)
      append(*at, name, parsedAgain(field.text));
  } else if (!field.taken.empty() && dumped(*there) == field.taken) {
    *there = parsedAgain(field.text); // nobody has changed it since
  }
}

} // namespace

void Reading::met(const std::string& what) {
  ++m_count;
  if (m_met.size() < 100 || m_met.contains(what)) ++m_met[what];
}

void Reading::metBeyondRange(const std::string& name) {
  met("\"" + name + "\" beyond its range");
  --m_count;
}

void Reading::keepId(std::uint64_t id) {
  if (id <= kHighestId) m_highest = std::max(m_highest, id);
}

void Reading::keepIds(const Json& json) {
  if (json.is_object()) {
    if (const Json* id = memberOf(json, "id"); id && id->is_number_unsigned())
      keepId(id->get<std::uint64_t>());
    for (const auto& [name, value] : json.items()) keepIds(value);
  } else if (json.is_array()) {
    for (const auto& value : json) keepIds(value);
  }
}

std::string Reading::text() const {
  std::string out;
  int told = 0;
  for (const auto& [what, count] : m_met) {
    if (told == kMostTold) break;
    out += (told++ > 0 ? "; " : "") + what;
    if (count > 1) out += " (" + std::to_string(count) + " times)";
  }
  if (int(m_met.size()) > told)
    out += "; and " + std::to_string(m_met.size() - std::size_t(told)) + " more";
  return out;
}

Fields::Fields(const Json& object, Reading& reading) : m_object(object), m_reading(reading) {
  if (!object.is_object()) throw Bad{"an entry that is not what it should be"};
}

const Json* Fields::find(const char* name) {
  const Members& members = *m_object.get_ptr<const Json::object_t*>();
  for (std::size_t i = 0; i < members.size(); ++i)
    if (members[i].first == name) {
      if (i < kTracked) m_taken |= std::uint64_t(1) << i;
      if (!members[i].second.is_null()) return &members[i].second;
      m_odd = true; // as good as not there, and kept as it was
      return nullptr;
    }
  return nullptr;
}

void Fields::odd(const char* name, const char* expected) {
  m_odd = true;
  m_reading.met("\"" + std::string(name) + "\" that is no " + expected);
}

double Fields::number(const char* name, double low, double high, double fallback) {
  const Json* value = find(name);
  if (!value) return fallback;
  const double v = value->is_number() ? value->get<double>() : NAN;
  if (!std::isfinite(v)) {
    odd(name, "number");
    return fallback;
  }
  if (v < low || v > high) {
    m_odd = true;
    m_reading.metBeyondRange(name);
  }
  return std::clamp(v, low, high);
}

std::int64_t Fields::integer(const char* name, std::int64_t low, std::int64_t high,
                             std::int64_t fallback) {
  const Json* value = find(name);
  if (!value) return fallback;
  if (!value->is_number()) {
    odd(name, "number");
    return fallback;
  }
  std::int64_t out = 0;
  if (value->is_number_float())
    out = toWholeIn(value->get<double>(), low, high);
  else if (value->is_number_unsigned())
    out = std::clamp(std::int64_t(std::min<std::uint64_t>(value->get<std::uint64_t>(), INT64_MAX)),
                     low, high);
  else
    out = std::clamp(value->get<std::int64_t>(), low, high);
  if (*value != Json(out)) {
    m_odd = true;
    m_reading.metBeyondRange(name);
  }
  return out;
}

std::string Fields::text(const char* name, std::string fallback, std::size_t longest) {
  const Json* value = find(name);
  if (!value) return fallback;
  if (!value->is_string()) {
    odd(name, "text");
    return fallback;
  }
  const auto& all = value->get_ref<const std::string&>();
  if (all.size() > longest) m_odd = true;
  return std::string(beginningOf(all, longest));
}

bool Fields::flag(const char* name, bool fallback) {
  const Json* value = find(name);
  if (!value) return fallback;
  if (!value->is_boolean()) {
    odd(name, "yes or no");
    return fallback;
  }
  return value->get<bool>();
}

std::size_t Fields::placeOf(const char* name, const char* const* words, std::size_t count) {
  const Json* value = find(name);
  if (!value) return count;
  if (!value->is_string()) {
    odd(name, "word");
    return count;
  }
  const auto& word = value->get_ref<const std::string&>();
  for (std::size_t i = 0; i < count; ++i)
    if (word == words[i]) return i;
  m_odd = true;
  m_reading.met("the word \"" + std::string(beginningOf(word, 60)) + "\" for \"" + name + "\"");
  return count;
}

std::size_t Fields::choiceOf(const char* name, const char* const* words, std::size_t count) {
  const std::size_t at = placeOf(name, words, count);
  return at < count ? at : 0;
}

const Json& Fields::list(const char* name, std::size_t most) {
  static const Json none = Json::array();
  const Json* value = find(name);
  if (!value) return none;
  if (!value->is_array()) {
    odd(name, "list");
    return none;
  }
  m_odd = true; // whether all of it was taken shows when it is compared
  if (value->size() > most) {
    m_reading.met("\"" + std::string(name) + "\" that is longer than it can be");
    return none;
  }
  return *value;
}

void Fields::older(const char* name) {
  if (find(name)) m_older.push_back(name);
}

void Fields::setAside(const char* name, const Json& entry, const std::string& why) {
  if (m_reading.job && m_reading.job->cancelled()) throw Bad{"reading was cancelled"};
  if (!why.empty()) m_reading.met(why);
  m_reading.keepIds(entry);
  m_aside.emplace_back(name, entry);
  m_odd = true;
}

bool Fields::plain() const {
  const std::size_t count = m_object.size();
  if (m_odd || count > kTracked || !m_older.empty()) return false;
  const std::uint64_t all = count == kTracked ? ~std::uint64_t(0) : (std::uint64_t(1) << count) - 1;
  return m_taken == all;
}

Extra Fields::restBeside(const Json& written) {
  const auto among = [](const std::vector<const char*>& names, const std::string& name) {
    return std::any_of(names.begin(), names.end(), [&](const char* n) { return name == n; });
  };
  Json read = Json::object();
  for (const auto& [name, value] : m_object.items())
    if (!among(m_lists, name) && !among(m_older, name)) append(read, name, value);
  std::vector<Extra::Field> out;
  addDifferences(read, written, {}, out);
  for (const char* name : m_lists) {
    Json entries = Json::array();
    for (auto& [list, entry] : m_aside)
      if (std::string_view(list) == name) entries.push_back(std::move(entry));
    if (!entries.empty()) out.push_back({"/" + escaped(name), dumped(entries), {}, true});
    // What stands where a list should be stays there as long as the list is empty.
    if (const Json* there = memberOf(m_object, name); there && !there->is_array())
      out.push_back({"/" + escaped(name), dumped(*there), kEmptyList, false});
  }
  return Extra(std::move(out));
}

void addRest(Json& object, const Extra& extra) {
  // Fields that are new to the object itself need not be looked for one by one: there may be many.
  std::set<std::string> known;
  for (const auto& [name, value] : object.items()) known.insert(name);
  for (const auto& field : extra.fields()) {
    const bool plain = field.taken.empty() && !field.entries &&
                       field.path.find('/', 1) == std::string::npos &&
                       field.path.find('~') == std::string::npos;
    if (plain && known.insert(field.path.substr(1)).second)
      append(object, field.path.substr(1), parsedAgain(field.text));
    else if (!plain)
      addField(object, field);
  }
}

Extra withEntries(const Extra& extra, const char* list, const Json& entries) {
  auto fields = extra.fields();
  fields.push_back({"/" + escaped(list), dumped(entries), {}, true});
  return Extra(std::move(fields));
}

} // namespace tuvvo::json_read
