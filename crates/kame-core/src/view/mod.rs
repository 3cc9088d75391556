//! Everything a screen shows of a wall at one moment, answered whole: the browser draws it and computes nothing.
//!
//! Drawing coordinates are inches with `x` to the right and `y` down; the wall's top left corner is the origin.

mod ask;
mod build_up;
mod built;
mod check;
mod choices;
mod compare;
mod cut;
mod drawn;
mod elevation;
mod exploded;
mod finding;
mod flashing;
mod forms;
mod handover;
mod hatches;
mod heads;
mod holds;
mod marks;
mod nights;
mod ordered;
mod planned;
mod practice;
mod progress;
mod repairs;
mod schools;
mod section;
mod since;
mod step;
mod step_picture;
mod tested;
mod verdict;
mod wall;

pub use ask::{Ask, Known, SectionAsk, SectionKind, Weather};
pub use build_up::{BuildUpView, LayerView};
pub use built::{Built, Material, SectionMark, SectionRun, SectionShape, SectionSize};
pub use check::{CheckView, CheckedFinding, RemedyView, check, remedy_views};
pub use choices::{ChoicePicture, ChoicePictures, ChoicesAsk, choices};
pub use compare::{ComparedAnswer, ComparedSide, Comparison, MaterialUse, compare, compare_until};
pub use cut::{GapState, GapView};
pub use drawn::Drawn;
pub use elevation::{
    AirView, CornerView, Elevation, Kept, KeptParts, KeyWall, LevelView, Mark, OpeningState, OpeningView, Shape,
};
pub use exploded::{Exploded, ExplodedPiece, explode};
pub use finding::{DropPoint, FindingView};
pub use flashing::{Flashing, flashings};
pub use forms::form_limits;
pub use handover::{HandoverLine, handover};
pub use hatches::{Hatch, Hatches};
pub use heads::{HeadsView, PlaceHeadView, heads};
pub use holds::{HoldsView, holds};
pub use nights::{NightView, night_views};
pub use ordered::{OrderedPiece, OrderedProduct, OrderedView, StepMinutes, ordered};
pub use planned::{FigureView, Planned, Since, planned};
pub use practice::{
    CallView, FaultNameView, FoundView, GradedView, LaidView, LapView, LayView, LiesView, SceneView, SizeAskView,
    graded_view, laid_view, scene_view,
};
pub use progress::{JobProgress, NextStep, TonightView, progress};
pub use repairs::{
    FoundAsk, FoundKindView, NewPieceView, NotSoView, ProposalView, RepairsView, StandingView, found_kind_views,
    repair_views,
};
pub use schools::{ChoiceView, OpeningAnswers, OrderView, QuestionView, order_view, school_views};
pub use section::{Section, SectionBand};
pub use since::leave_out;
pub use step::{ActionView, StepCut, StepView, StepWait};
pub use step_picture::{PastSide, SizeLine, StepPicture, step_pictures};
pub use tested::{SeenJudged, TestPicture, WayOutView, seen_judged, test_picture};
pub use verdict::{GlueView, LeanView, VerdictView, WaterHeadView, state_of};
pub use wall::{WallView, view, view_plan, view_with_nights};
