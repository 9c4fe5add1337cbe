// The layers of a key, and what is muted or solo.
#include "model/edits.h"

#include <algorithm>

namespace tuvvo {

namespace {

/// Every layer's share of the velocities, evenly, in their order.
void shareVelocities(Key& key) {
  const double count = double(key.layers.size() + 1);
  key.own.upTo = 1 / count;
  for (std::size_t i = 0; i < key.layers.size(); ++i)
    key.layers[i].play.upTo = double(i + 2) / count;
}

} // namespace

Project withMuteFlipped(Project project, Id id, Whose whose, bool solo) {
  const Key* key = findKey(project, id);
  if (!key) return project;
  const auto flip = [solo](auto& quiet) {
    bool& flag = solo ? quiet.solo : quiet.muted;
    flag = !flag;
  };
  switch (whose) {
  case Whose::Key:
    return withKeyChanged(std::move(project), id, [&](Key& k) { flip(k.muteSolo); });
  case Whose::Part:
    return withPartChanged(std::move(project), key->part, flip);
  case Whose::Role:
    flip(project.roles[std::size_t(key->row)]);
    break;
  }
  return project;
}

Project withLayer(Project project, Id id, const Layer& layer) {
  return withKeyChanged(std::move(project), id, [&](Key& key) {
    if (key.layers.size() + 1 >= kMostLayers) return;
    key.layers.push_back(layer);
    if (key.mode == LayerMode::ByVelocity) shareVelocities(key);
  });
}

Project withoutLayer(Project project, Id id, std::size_t layer) {
  return withKeyChanged(std::move(project), id, [&](Key& key) {
    if (layer > key.layers.size() || key.layers.empty()) return;
    if (layer == 0) {
      const Layer& next = key.layers.front();
      key = [&] {
        Key changed = keyOfLayer(key, next);
        changed.layers.assign(key.layers.begin() + 1, key.layers.end());
        return changed;
      }();
    } else {
      key.layers.erase(key.layers.begin() + std::ptrdiff_t(layer - 1));
    }
    if (key.mode == LayerMode::ByVelocity) shareVelocities(key);
  });
}

Project withLayerMode(Project project, Id id, LayerMode way) {
  return withKeyChanged(std::move(project), id, [&](Key& key) {
    key.mode = way;
    const bool apart = std::any_of(key.layers.begin(), key.layers.end(), [&](const Layer& layer) {
      return layer.play.upTo != key.own.upTo;
    });
    if (way == LayerMode::ByVelocity && !apart) shareVelocities(key);
  });
}

} // namespace tuvvo
