// How fresh water carries sound.
#pragma once

namespace heron {

/// Speed of sound in fresh water at one atmosphere, m/s; `celsius` in 0…95.
/// Marczak, W. (1997), J. Acoust. Soc. Am. 102(5), 2776–2779; stated accuracy 0.02 m/s. Coefficients from
/// memory.
double sound_speed_fresh_m_s(double celsius);

/// Absorption of sound in fresh water, decibels a metre (one way), for `frequency_hz` in 10 kHz…1.5 MHz
/// and `celsius` in 0…40, at the surface. The pure-water term of Francois & Garrison (1982),
/// J. Acoust. Soc. Am. 72(6), 1879–1890. Coefficients from memory.
double absorption_fresh_db_per_m(double frequency_hz, double celsius);

} // namespace heron
