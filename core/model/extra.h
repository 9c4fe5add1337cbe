// What a file said of a thing that this version could not take as it stands.
#pragma once

#include <memory>
#include <string>
#include <vector>

namespace tuvvo {

/// Fields that are not known, words and figures that could not be taken, entries of lists that are
/// of no known kind: kept as they were read and written again, whatever else is changed. A plain
/// value, cheap to copy; formats/ fills it and is alone in knowing what the texts mean.
class Extra {
public:
  struct Field {
    std::string path;     ///< in the thing's own object, as a JSON pointer (RFC 6901)
    std::string text;     ///< JSON, as it was read
    std::string taken;    ///< JSON that stood for it when it was read; empty: nothing did
    bool entries = false; ///< the text is a list, whose entries belong to the list at the path
    bool operator==(const Field&) const = default;
  };

  Extra() = default;
  explicit Extra(std::vector<Field> fields) {
    if (!fields.empty()) m_fields = std::make_shared<const std::vector<Field>>(std::move(fields));
  }
  [[nodiscard]] bool empty() const { return !m_fields; }
  [[nodiscard]] const std::vector<Field>& fields() const {
    static const std::vector<Field> none;
    return m_fields ? *m_fields : none;
  }
  bool operator==(const Extra& other) const {
    return m_fields == other.m_fields || fields() == other.fields();
  }

private:
  std::shared_ptr<const std::vector<Field>> m_fields;
};

} // namespace tuvvo
