//! The products that the program itself asks for. Each is looked for when the product data is read, so that a slip of the pen is a failed test;
//! recipes name theirs in data.

macro_rules! names {
    ($($name:ident = $says:literal,)*) => {
        $(
            #[doc = concat!("“", $says, "”; `data/products.toml` says what it is.")]
            pub const $name: &str = $says;
        )*
        /// All of them.
        pub(super) const ALL: &[&str] = &[$($name),*];
    };
}

names! {
    BACKER_ROD = "Backer rod",
    BATTEN_SCREW = "Batten screw",
    BOND_BREAKER_TAPE = "Bond-breaker tape",
    CAP_FASTENER = "Cap fastener",
    CLADDING_FASTENER = "Cladding fastener",
    FLASHING_TAPE = "Flashing tape",
    FLAT_MEMBRANE = "Flat flashing membrane",
    FOAM = "Low-expansion foam",
    INSULATION_BOARD = "Insulation board",
    JOINT_TAPE = "Joint tape",
    LIQUID_FLASHING = "Liquid flashing",
    LOOSE_SHEET = "Loose barrier sheet",
    PANEL_FASTENER = "Panel fastener",
    PLASTER_PAPER = "Plaster paper, 10-minute, 5 perm",
    SEALANT = "Sealant, movement class 25 or more",
    SETTING_BLOCK = "Setting block",
    SHIM = "Shim",
    UNIT_FASTENER = "Unit fastener",
    WASHER_FASTENER = "Washer fastener",
}
