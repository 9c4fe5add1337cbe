#include "widgets/parameter_text.h"

#include <QCoreApplication>

namespace tuvvo {

namespace {
QString text(std::string_view words) {
  return QString::fromUtf8(words.data(), qsizetype(words.size()));
}
} // namespace

QString nameOf(const Parameter& parameter) {
  return QCoreApplication::translate("parameter", text(parameter.name).toUtf8().constData());
}

QString unitOf(const Parameter& parameter) {
  const auto symbol = text(symbolOf(parameter.unit));
  return symbol.isEmpty() ? symbol
                          : QCoreApplication::translate("unit", symbol.toUtf8().constData());
}

Slide::Range rangeOf(const Parameter& parameter) {
  return {parameter.least, parameter.most,     parameter.standard,
          parameter.step,  parameter.decimals, parameter.taper == Taper::Ratio};
}

Slide* slideFor(const Parameter& parameter, QWidget* parent) {
  auto* slide = new Slide(nameOf(parameter), rangeOf(parameter), unitOf(parameter), parent);
  slide->setId(text(parameter.id));
  return slide;
}

} // namespace tuvvo
