// A sound to be made: brought to the beat, treated, made to go round.
#pragma once

#include "shape/bake.h"
#include "shape/treat.h"

namespace tuvvo {

/// What was made of an order.
struct Baked {
  SoundPtr sound;
  std::int64_t loopStart = 0, loopEnd = 0; ///< what goes round, in frames; equal: nothing does
  [[nodiscard]] explicit operator bool() const { return sound != nullptr; }
};

struct BakeOrder {
  SoundPtr sound;
  BakeRecipe recipe;                 ///< its time and pitch
  std::vector<Treatment> treatments; ///< what is done to that
  TreatFrame frame;                  ///< what they go by
  SliceLoop loop;                    ///< what goes round in the end
  std::string base;                  ///< recipe.nameOver(sound->hash()): names what is treated
  std::string name;                  ///< of the whole

  /// Sets both names from the rest.
  void setNames();
  /// Whether there is more to it than the recipe.
  [[nodiscard]] bool treated() const { return !treatments.empty() || loop.on; }
  /// Whether a quick version of the recipe is worth while: fine stretching takes its time.
  [[nodiscard]] bool hasPreview() const {
    return recipe.method == FitMethod::Stretch && recipe.material == Material::Tones &&
           !recipe.preview;
  }
  /// The same order in its quick version.
  [[nodiscard]] BakeOrder preview() const;
};

/// Treats what the recipe made, and lays the loop: the last part of what goes round is crossfaded
/// into what follows its start (equal gain where both are alike, equal power where they are not),
/// and a little of that follows its end, so that any interpolation goes round without a step.
/// The same order over the same sound gives the same samples again. Not for the audio thread.
/// @param base  of the recipe alone, at the recipe's rate
/// @returns an Error when the job was cancelled or a treatment cannot be done
Result<Baked> finishOrder(const BakeOrder& order, const SoundPtr& base, JobContext& job);

} // namespace tuvvo
