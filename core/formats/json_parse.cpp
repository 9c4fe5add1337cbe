#include "formats/json_read.h"

#include <unordered_map>

namespace tuvvo::json_read {

namespace {

constexpr std::size_t kFew = 64; ///< fields that are looked through one by one
constexpr std::size_t kAskEvery = 1 << 16;

using Members = std::vector<Json::object_t::value_type>;

Members& membersOf(Json& object) { return *object.get_ptr<Json::object_t*>(); }

/// Builds values from the parser's events, each in constant time.
class Builder {
public:
  Builder(const ParseLimits& limits, JobContext* job) : m_limits(limits), m_job(job) {}
  Json whole;

  bool null() { return put(Json(nullptr)); }
  bool boolean(bool value) { return put(Json(value)); }
  bool number_integer(std::int64_t value) { return put(Json(value)); }
  bool number_unsigned(std::uint64_t value) { return put(Json(value)); }
  bool number_float(double value, const std::string&) { return put(Json(value)); }
  bool string(std::string& value) { return put(Json(std::move(value))); }
  bool binary(Json::binary_t&) { return false; }
  bool start_object(std::size_t) { return open(Json::object()); }
  bool start_array(std::size_t) { return open(Json::array()); }
  bool key(std::string& name) {
    m_name = std::move(name);
    return true;
  }
  bool end_object() { return close(); }
  bool end_array() { return close(); }
  bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception&) {
    return false;
  }

private:
  bool put(Json&& value) {
    (void)place(std::move(value));
    return true;
  }
  bool open(Json&& value) {
    if (int(m_open.size()) >= m_limits.depth) throw Bad{"it is nested too deeply"};
    m_open.push_back({place(std::move(value)), {}});
    return true;
  }
  bool close() {
    m_open.pop_back();
    return true;
  }
  Json* place(Json&& value) {
    if (++m_values > m_limits.values) throw Bad{"it holds more than it can"};
    if (m_job && m_values % kAskEvery == 0 && m_job->cancelled())
      throw Bad{"reading was cancelled"};
    if (m_open.empty()) {
      whole = std::move(value);
      return &whole;
    }
    Json& in = *m_open.back().value;
    if (in.is_array()) {
      auto& list = *in.get_ptr<Json::array_t*>();
      list.push_back(std::move(value));
      return &list.back();
    }
    Members& members = membersOf(in);
    const std::size_t twin = twinIn(members, m_open.back().places);
    if (twin < members.size()) {
      members[twin].second = std::move(value);
      return &members[twin].second;
    }
    members.emplace_back(std::move(m_name), std::move(value));
    return &members.back().second;
  }

  using Places = std::unordered_map<std::string, std::size_t>;

  /// Where a field of this name stands already; else the size. A large object has an index.
  std::size_t twinIn(const Members& members, Places& places) {
    if (members.size() < kFew) {
      for (std::size_t i = 0; i < members.size(); ++i)
        if (members[i].first == m_name) return i;
      return members.size();
    }
    for (std::size_t i = places.size(); i < members.size(); ++i)
      places.emplace(members[i].first, i);
    const auto found = places.find(m_name);
    return found == places.end() ? members.size() : found->second;
  }

  const ParseLimits& m_limits;
  JobContext* m_job;
  std::size_t m_values = 0;
  struct Open {
    Json* value; ///< only the innermost ever grows, so that the others stay in place
    Places places;
  };
  std::vector<Open> m_open;
  std::string m_name;
};

/// Stops at the first field of a name in the outermost object.
class FirstField {
public:
  explicit FirstField(const char* name) : m_wanted(name) {}
  std::optional<Json> found;

  bool null() { return value(Json(nullptr)); }
  bool boolean(bool v) { return value(Json(v)); }
  bool number_integer(std::int64_t v) { return value(Json(v)); }
  bool number_unsigned(std::uint64_t v) { return value(Json(v)); }
  bool number_float(double v, const std::string&) { return value(Json(v)); }
  bool string(std::string& v) { return value(Json(v)); }
  bool binary(Json::binary_t&) { return false; }
  bool start_object(std::size_t) { return ++m_depth < kDeepest; }
  bool start_array(std::size_t) { return ++m_depth < kDeepest; }
  bool end_object() { return --m_depth > 0; }
  bool end_array() { return --m_depth > 0; }
  bool key(std::string& name) {
    m_here = m_depth == 1 && name == m_wanted;
    return true;
  }
  bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception&) {
    return false;
  }

private:
  static constexpr int kDeepest = 1000;
  bool value(Json&& v) {
    if (!m_here || m_depth != 1) return m_depth > 0;
    found = std::move(v);
    return false;
  }
  const char* m_wanted;
  int m_depth = 0;
  bool m_here = false;
};

} // namespace

std::optional<Json> firstField(const std::string& bytes, const char* name) {
  FirstField finder(name);
  (void)Json::sax_parse(bytes, &finder);
  return finder.found;
}

Json parse(const std::string& bytes, JobContext* job, const ParseLimits& limits) {
  if (bytes.size() > limits.bytes) throw Bad{"it is larger than it can be"};
  Builder builder(limits, job);
  if (!Json::sax_parse(bytes, &builder)) throw Bad{"it is not JSON, or ends too early"};
  return std::move(builder.whole);
}

void append(Json& object, const std::string& name, Json value) {
  membersOf(object).emplace_back(name, std::move(value));
}

} // namespace tuvvo::json_read
