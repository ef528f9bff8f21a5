#pragma once

// The core's own elementary functions: the same to the bit with every compiler and C library. Angles in
// radians. Each is within 2 units of the last place of the true value (`Elementary.*` measures it) and takes
// any finite number where it has a value; elsewhere it returns what is said, never NaN.
namespace dardo::detail {

struct SineCosine {
  double sine = 0, cosine = 1;
};
/// Of an angle up to 1e9 either way; of a larger one as of its remainder by the double nearest to 2 pi.
SineCosine sine_cosine(double angle);
double sine(double angle);
double cosine(double angle);
double tangent(double angle);
/// The angle of the direction (x, y) from the x axis, in [-pi, pi]; 0 of (0, 0).
double arc_tangent(double y, double x);
/// In [0, pi]; numbers beyond [-1, 1] count as its ends.
double arc_cosine(double cosine);
/// The natural logarithm; of 0 and less that of the least double, -745.
double natural_logarithm(double x);
/// base^exponent by squaring, within `exponent` roundings: no function of the C library, either.
double whole_power(double base, unsigned exponent);

}  // namespace dardo::detail
