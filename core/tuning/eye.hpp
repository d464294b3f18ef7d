// What an eye makes of a thing on a screen.
#pragma once

namespace heron {

/// Pairs of pixels over the middling extent of a thing at which half of those who look tell what it is.
/// Johnson, "Analysis of image forming systems" (1958), in the form that takes both extents of a thing
/// together: 3.0 for recognition, 0.75 for no more than its being there. From memory.
inline constexpr double cycles_to_recognise = 3.0;
/// The two seconds that a picture gets at the helm (common practice, no published source).
inline constexpr double glance_s = 2;

/// Pairs of pixels over the geometric mean of both extents; a pixel no finer than the sonar's cell. A
/// screen's pixel of 0.22 mm seen from 0.75 m spans one minute of arc, the detail that sound eyes tell apart
/// (ISO 8596), so none is lost to the eye itself.
double cycles_over(double across_m, double along_m, double pixel_across_m, double pixel_along_m);

/// Chance that it is told in the end: x^E/(1 + x^E), x = cycles over `cycles_to_recognise`, E = 2.7 + 0.7·x
/// (the target transfer probability of the Night Vision Laboratory's search model, from memory).
double told_in_the_end(double cycles);
/// And within `seconds`, with the same model's rate: a third and a bit a second for what is told at all, more
/// for what is plain.
double told_within(double cycles, double seconds = glance_s);
/// The same within a glance, from a table: to one in a thousand. Settings by the thousand ask for it.
double told_in_a_glance(double cycles);

} // namespace heron
