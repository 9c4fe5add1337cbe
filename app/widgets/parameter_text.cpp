#include "widgets/parameter_text.h"

#include <QCoreApplication>
#include <algorithm>
#include <limits>

namespace tuvvo {

namespace {
QString text(std::string_view words) {
  return QString::fromUtf8(words.data(), qsizetype(words.size()));
}
QString translated(std::string_view words) {
  return QCoreApplication::translate("parameter", text(words).toUtf8().constData());
}
} // namespace

QString nameOf(const Parameter& parameter) { return translated(parameter.name); }

QString aboutOf(const Parameter& parameter) {
  return parameter.about.empty() ? QString() : translated(parameter.about);
}

QStringList wordsOf(const Parameter& parameter) {
  QStringList words;
  for (std::string_view word : parameter.words) words << translated(word);
  return words;
}

QString unitOf(const Parameter& parameter) {
  const auto symbol = text(symbolOf(parameter.unit));
  return symbol.isEmpty() ? symbol
                          : QCoreApplication::translate("unit", symbol.toUtf8().constData());
}

Slide::Range rangeOf(const Parameter& parameter) {
  const double reach = parameter.reach > 0 ? parameter.reach : std::numeric_limits<double>::max();
  return {std::max(parameter.least, -reach),
          std::min(parameter.most, reach),
          parameter.standard,
          parameter.step,
          parameter.decimals,
          parameter.taper == Taper::Ratio};
}

Slide* slideFor(const Parameter& parameter, QWidget* parent, const QString& of) {
  auto* slide = new Slide(nameOf(parameter), rangeOf(parameter), unitOf(parameter), parent);
  slide->setId(of + text(parameter.id));
  slide->setTypedUnit(parameter.unit);
  if (const QString about = aboutOf(parameter); !about.isEmpty()) slide->setToolTip(about);
  return slide;
}

} // namespace tuvvo
