// What tests do again and again with what stands behind a window, in one line each.
#pragma once

#include "session/services.h"

namespace tuvvo::test {

inline const Project& project(const Services& s) { return s.document.project(); }
inline const Selection& selection(const Services& s) { return s.document.selection(); }
inline void selectSource(Services& s, Id id) {
  s.document.select(withSourceChosen(selection(s), id));
}
inline void selectKey(Services& s, Id id) {
  s.document.select(withKeyChosen(selection(s), project(s), id));
}
inline void selectCut(Services& s, Id source, Id cut) {
  s.document.select(withCutChosen(selection(s), project(s), source, cut));
}
inline void selectPattern(Services& s, Id id) {
  s.document.select(withPatternChosen(selection(s), id));
}
inline void selectSection(Services& s, Id id) {
  s.document.select(withSectionChosen(selection(s), project(s), id));
}
inline void setPage(Services& s, int page) {
  s.document.select(withPage(selection(s), project(s), page));
}
inline std::vector<Id> chosenKeys(const Services& s) {
  return tuvvo::chosenKeys(selection(s), project(s));
}

inline QString folder(const Services& s) {
  return QString::fromStdString(s.files.folder().string());
}
/// @returns whether all of it is saved
inline bool save(Services& s) {
  s.files.save();
  s.files.wait();
  return !s.files.unsaved() && !s.files.readOnly();
}
/// @returns whether all of it is saved there
inline bool saveAs(Services& s, const QString& to, Replace replace = Replace::No) {
  s.files.saveAs(to, replace);
  s.files.wait();
  const QString whole = to.endsWith(QLatin1String(".tuvvo")) ? to : to + QLatin1String(".tuvvo");
  return !s.files.unsaved() && folder(s) == whole;
}

} // namespace tuvvo::test
