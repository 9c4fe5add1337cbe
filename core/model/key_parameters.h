// Everything of a key that can be turned.
#pragma once

#include "model/key.h"
#include "model/parameter.h"

namespace tuvvo {

/// A figure of a key; those of layers are of one of them.
struct KeyParameter {
  Parameter parameter;
  double (*get)(const Key& key, int layer); ///< in the parameter's unit
  void (*set)(Key& key, int layer, double value);
  /// Where it lies in the window, and what it depends on.
  enum class Group { Level, Envelope, Filter, Layer } group;
  bool (*works)(const Key& key) = nullptr; ///< null: always
};

/// All of them, in the order in which they are shown. Corners of filters that are off read as the
/// end of their range where nothing is taken away, and setting that end switches them off.
[[nodiscard]] std::span<const KeyParameter> keyParameters();
/// Null for one that is not known.
[[nodiscard]] const KeyParameter* findKeyParameter(std::string_view id);

} // namespace tuvvo
