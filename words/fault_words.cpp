#include "words/fault_words.h"

#include "words/figure_text.h"

#include <cmath>

namespace tuvvo {

std::string sentenceOf(const FaultHeard& fault) {
  const double figure = fault.figure, size = std::abs(figure);
  const bool both = fault.second != 0; // older files have one figure
  if (fault.kind == "silence") return "There is nothing but silence in it.";
  if (fault.kind == "dc offset")
    return figureText("The middle of the wave stands %.1f %% off zero; a high-pass takes it out.",
                      size * 100);
  if (fault.kind == "clipping")
    return figureText("Up to %.0f samples in a row are cut off at the top; take it in again lower "
                      "if you can.",
                      figure);
  if (fault.kind == "silence at the front")
    return figureText("It begins with %.0f ms of silence; cutting leaves it out.", figure);
  if (fault.kind == "one-sided")
    return figure > 0 ? "Nearly all of it is on the left; use that side alone."
                      : "Nearly all of it is on the right; use that side alone.";
  if (fault.kind == "inverted")
    return "Left and right are turned against each other: in mono it disappears. Turn one round.";
  if (fault.kind == "hum")
    return figureText("Mains hum at %.0f Hz", figure) +
           (both ? figureText(", %.0f dBFS", fault.second) : "") +
           "; a narrow cut there takes it out.";
  if (fault.kind == "dead air")
    return figureText("%.1f s of dead air", figure) +
           (both ? figureText(" from %.1f s on.", fault.second) : ".");
  if (fault.kind == "wow")
    return figureText("The speed wavers by ±%.0f ct", figure) +
           (both ? figureText(", %.2f times a second", fault.second) : "") +
           ", as a disc off its centre does; fitted beat by beat it evens out.";
  if (fault.kind == "speed drift")
    return figureText("It ends %.0f ct ", size) + (figure > 0 ? "higher" : "lower") +
           " than it begins: the speed drifts.";
  return "This was found in it: " + fault.kind + ".";
}

} // namespace tuvvo
