#include "water/water.hpp"

namespace heron {

double sound_speed_fresh_m_s(double t) {
    return 1402.385 +
           t * (5.038813 + t * (-5.799136e-2 + t * (3.287156e-4 + t * (-1.398845e-6 + t * 2.787860e-9))));
}

double absorption_fresh_db_per_m(double frequency_hz, double t) {
    const double a3 = t <= 20 ? 4.937e-4 + t * (-2.59e-5 + t * (9.11e-7 - t * 1.50e-8))
                              : 3.964e-4 + t * (-1.146e-5 + t * (1.45e-7 - t * 6.5e-10));
    const double khz = frequency_hz / 1000;
    return a3 * khz * khz / 1000; // the fit is in dB/km
}

} // namespace heron
