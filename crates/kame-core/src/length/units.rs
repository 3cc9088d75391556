//! How areas and volumes of one unit stand in another, exact by definition.

/// Square inches in a square foot.
pub const IN2_PER_FT2: f64 = 144.0;
/// Cubic inches in a US fluid ounce.
pub const IN3_PER_FL_OZ: f64 = 231.0 / 128.0;
/// US fluid ounces in a US gallon.
pub const FL_OZ_PER_GALLON: f64 = 128.0;
/// Square feet that a US gallon covers at one mil.
pub const FT2_MIL_PER_GALLON: f64 = 231.0 / IN2_PER_FT2 * 1000.0;
