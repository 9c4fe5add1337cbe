// Filter: low-pass, high-pass, band-pass or notch; 12 or 24 dB an octave; resonance.
//
// Two state variable filters with trapezoidal integrators (A. Simper, "Solving the continuous SVF
// equations using trapezoidal integration and equivalent currents", Cytomic, 2013). Their corners
// are pre-warped, so that each is the bilinear transform of its analogue section.
declare name "filter";
import("stdfaust.lib");

mode = nentry("mode", 0, 0, 3, 1); // low-pass, high-pass, band-pass, notch
steep = nentry("slope", 0, 0, 1, 1); // 12, 24 dB an octave
cutoff = hslider("cutoff", 1000, 20, 20000, 1) : min(0.49 * ma.SR);
resonance = hslider("resonance", 0, 0, 24, 0.1) : ba.db2linear;

// g: tan(pi f / rate); k: 1 / Q
section(g, k, x) = step ~ (_, _) : (!, !, si.bus(3)) : pick
with {
  a1 = 1 / (1 + g * (g + k));
  a2 = g * a1;
  a3 = g * a2;
  step(s1, s2) = 2 * v1 - s1, 2 * v2 - s2, x, v1, v2
  with {
    v3 = x - s2;
    v1 = a1 * s1 + a2 * v3;
    v2 = s2 + a2 * s1 + a3 * v3;
  };
  pick(in, band, low) = low, in - k * band - low, k * band, in - k * band : ba.selectn(4, int(mode));
};

g = tan(ma.PI * cutoff / ma.SR);
// Butterworth: one section of Q 1/sqrt 2, or two of 0.541 and 1.307.
channel(x) = x <: one, two : select2(int(steep))
with {
  one = section(g, sqrt(2) / resonance);
  two = section(g, 2 * cos(ma.PI / 8)) : section(g, 2 * sin(ma.PI / 8) / resonance);
};

process = channel, channel;
