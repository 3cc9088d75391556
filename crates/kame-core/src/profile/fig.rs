//! The figures that the program itself asks for. Each is looked for when the profile is read, so that a slip of the pen is a failed test and never
//! a zero; recipes name theirs in data.

/// Name of a figure that is a length.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LengthFigure(pub(super) &'static str);

impl LengthFigure {
    /// The figure's id in data and files.
    pub const fn id(self) -> &'static str {
        self.0
    }
}

/// Name of a figure that is a plain number.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct NumberFigure(pub(super) &'static str);

impl NumberFigure {
    /// The figure's id in data and files.
    pub const fn id(self) -> &'static str {
        self.0
    }
}

macro_rules! figures {
    ($of:ident, $all:ident: $($name:ident = $id:literal,)*) => {
        $(
            #[doc = concat!("The figure `", $id, "`; `data/figures.toml` says what it is and where it comes from.")]
            pub const $name: $of = $of($id);
        )*
        /// All of them.
        pub(super) const $all: &[$of] = &[$($name),*];
    };
}

figures! {
    LengthFigure, LENGTHS:
    AIR_WAY = "air_way",
    GABLE_BRIDGE = "gable_bridge",
    REPAIR_PAST = "repair_past",
    TEST_NEAR = "test_near",
    REPAIR_TUCK = "repair_tuck",
    REPAIR_DAB = "repair_dab",
    REPAIR_DAB_MOST = "repair_dab_most",
    REPAIR_STUCK_MOST = "repair_stuck_most",
    BARRIER_ROLL_LENGTH = "barrier_roll_length",
    BARRIER_ROLL_WIDTH = "barrier_roll_width",
    BATTEN_SCREW_SPACING = "batten_screw_spacing",
    BATTEN_SPACING = "batten_spacing",
    BATTEN_WIDTH = "batten_width",
    BED_BEAD = "bed_bead",
    BED_INSET = "bed_inset",
    CLEAR_PAVING = "clear_paving",
    CLEAR_SOIL = "clear_soil",
    CAP_SPACING = "cap_spacing",
    CLADDING_FASTENER_SPACING = "cladding_fastener_spacing",
    BEAD_JOINT = "bead_joint",
    CAP_GAP = "cap_gap",
    TRIM_WIDTH = "trim_width",
    TOP_TAPE = "top_tape",
    CLEARANCE = "clearance",
    CLEARANCE_LEAST = "clearance_least",
    CLEARANCE_MOST = "clearance_most",
    CLADDING_STACK = "cladding_stack",
    INSULATION_THICK = "insulation_thick",
    CORNER_WRAP = "corner_wrap",
    COURSE_CLEAR_OF_OPENING = "course_clear_of_opening",
    COURSE_LEAST_STRIP = "course_least_strip",
    COURSE_STAGGER = "course_stagger",
    CUT_ROUND = "cut_round",
    FIRST_COURSE_BELOW_PLATE = "first_course_below_plate",
    FLANGE_USUAL = "flange_usual",
    FLOOR_LAPS = "floor_laps",
    FLOOR_RAIN = "floor_rain",
    FRAME_DEPTH = "frame_depth",
    SHEET_THICK = "sheet_thick",
    STUD_DEPTH = "stud_depth",
    FURRING_OFF = "furring_off",
    GAP_END = "gap_end",
    HEAD_TAPE_WIDTH = "head_tape_width",
    JAMB_TAPE_WIDTH = "jamb_tape_width",
    JOINT_DEPTH = "joint_depth",
    JOINT_TAPE_WIDTH = "joint_tape_width",
    LAP_HORIZONTAL = "lap_horizontal",
    LAP_VERTICAL = "lap_vertical",
    LEAST_LEFTOVER = "least_leftover",
    LINING_LAP = "lining_lap",
    MEETING_STRIP = "meeting_strip",
    MOUTH_DEPTH = "mouth_depth",
    NIGHT_COVER = "night_cover",
    NIGHT_TAPE = "night_tape",
    OFF_LEVEL = "off_level",
    OPENING_CORNER_CLEAR = "opening_corner_clear",
    OUTLINE_STEP = "outline_step",
    PAN_ROLL_LENGTH = "pan_roll_length",
    PAN_UP_TURN = "pan_up_turn",
    PANEL_CORNER_CLEAR = "panel_corner_clear",
    JOINT_LIQUID_WIDTH = "joint_liquid_width",
    CORNER_LIQUID = "corner_liquid",
    DOT_SIZE = "dot_size",
    BUTTER_THICK = "butter_thick",
    BOND_BREAKER = "bond_breaker",
    BOND_BREAKER_PAST = "bond_breaker_past",
    PANEL_EDGE_SPACING = "panel_edge_spacing",
    PANEL_FIELD_SPACING = "panel_field_spacing",
    PANEL_GAP = "panel_gap",
    PANEL_LENGTH = "panel_length",
    PANEL_STAGGER = "panel_stagger",
    PANEL_WIDTH = "panel_width",
    PARAPET_LEG = "parapet_leg",
    PATCH_PAST = "patch_past",
    PEN_GAP = "pen_gap",
    SHORT_BY = "short_by",
    SAW_KERF = "saw_kerf",
    STUD_SPACING = "stud_spacing",
    SHARED_PIER = "shared_pier",
    SCAFFOLD_LIFT = "scaffold_lift",
    SHIM_CORNER = "shim_corner",
    SHIM_SPACING = "shim_spacing",
    SCREW_BITE = "screw_bite",
    TAPE_ON_BARRIER = "tape_on_barrier",
    TAPE_ON_FRAME = "tape_on_frame",
    TAPE_ROLL_LENGTH = "tape_roll_length",
    TAPE_SPLICE = "tape_splice",
    TRIM_MARGIN = "trim_margin",
    UNIT_FASTENER_SPACING = "unit_fastener_spacing",
    WALLS_CLOSE = "walls_close",
}

figures! {
    NumberFigure, NUMBERS:
    OVERTIME_RATE = "overtime_rate",
    AIR_TEST_R2 = "air_test_r2",
    AREA_PER_CAP = "area_per_cap",
    BOARD_WASHERS = "board_washers",
    COAT_LOSS = "coat_loss",
    CREW = "crew",
    CREW_RATE = "crew_rate",
    DAY_HOURS = "day_hours",
    DAYS_EXPOSED = "days_exposed",
    DEW_MARGIN_F = "dew_margin_f",
    DRAIN_KEPT = "drain_kept",
    DRY_TO = "dry_to",
    EXPOSURE_FACTOR = "exposure_factor",
    FIELD_MIL = "field_mil",
    FOAM_YIELD = "foam_yield",
    HUMID_FROM = "humid_from",
    NIGHT_COVER_MINUTES = "night_cover_minutes",
    PLASTER_COAT_MIL = "plaster_coat_mil",
    EXPOSURE_TOLD = "exposure_told",
    LIGHT_BELOW = "light_below",
    FORECAST_RAIN = "forecast_rain",
    FORECAST_DEGREES = "forecast_degrees",
    FORECAST_MPH = "forecast_mph",
    JOINT_MIL = "joint_mil",
    MIN_AREA = "min_area",
    MIN_COAT = "min_coat",
    MIN_COAT_AREA = "min_coat_area",
    MIN_PRIME = "min_prime",
    MIN_PRIME_AREA = "min_prime_area",
    MIN_CUT = "min_cut",
    MIN_FASTEN = "min_fasten",
    MIN_FASTEN_FOOT = "min_fasten_foot",
    MIN_FOOT = "min_foot",
    MIN_MEASURE = "min_measure",
    MIN_PLACE = "min_place",
    MIN_PRESS = "min_press",
    MIN_PRESS_FOOT = "min_press_foot",
    MIN_SEAL = "min_seal",
    MIN_SEAL_FOOT = "min_seal_foot",
    MIN_SET = "min_set",
    PLASTER_GRADE = "plaster_grade",
    PLASTER_PERM = "plaster_perm",
    RAIN_MARGIN = "rain_margin",
    ROD_MORE = "rod_more",
    SHORT_SKIN = "short_skin",
    SILL_SLOPE = "sill_slope",
    SKIN_DRY = "skin_dry",
    SKIN_HALVES_F = "skin_halves_f",
    SKIN_HUMID = "skin_humid",
    SUBSTRATE_FACTOR = "substrate_factor",
    WARM_BY_F = "warm_by_f",
    WASTE_HANDLING = "waste_handling",
    WORK_COLD_F = "work_cold_f",
    WORK_HOT_F = "work_hot_f",
    WIND_LADDER = "wind_ladder",
    WIND_SHEET = "wind_sheet",
    WOOD_MOISTURE = "wood_moisture",
}
