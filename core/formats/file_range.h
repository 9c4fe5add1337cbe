// Figures in files, brought into the ranges of the parameters that describe them.
#pragma once

#include "formats/json_read.h"
#include "model/parameter.h"

#include <cassert>

namespace tuvvo::json_read {

/// A parameter's range in the unit of a file.
class FileRange {
public:
  /// @param figure  of findKeyParameter() and its kin; it must be there
  /// @param per     how many of the parameter's unit are one of the file's: 100 for a share of one
  template <class Figure> explicit FileRange(const Figure* figure, double per = 1) {
    assert(figure != nullptr);
    m_least = figure->parameter.least / per;
    m_most = figure->parameter.most / per;
    m_standard = figure->parameter.standard / per;
  }

  [[nodiscard]] double least() const { return m_least; }
  [[nodiscard]] double most() const { return m_most; }

  double in(Fields& fields, const char* name) const { return in(fields, name, m_standard); }
  /// @param usual  where the file has none
  double in(Fields& fields, const char* name, double usual) const {
    return fields.number(name, m_least, m_most, usual);
  }
  int wholeIn(Fields& fields, const char* name) const {
    return int(fields.integer(name, std::int64_t(m_least), std::int64_t(m_most),
                              std::int64_t(m_standard)));
  }

private:
  double m_least = 0, m_most = 0, m_standard = 0;
};

} // namespace tuvvo::json_read
