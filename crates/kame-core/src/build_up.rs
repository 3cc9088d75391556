//! The build-up of a wall: its layers from stud to face, each with its thickness, and what is reckoned from them: how far a thing stands proud,
//! how long screws are, how deep trims and beads go.

use crate::length::Length;
use crate::profile::{Figures, fig};
use crate::recipe::expr::Env;
use crate::recipe::schools::{Answers, holds};
use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

const DATA: &str = include_str!("../data/build-up.toml");

/// The function of a layer, by which sums pick the layers that they add up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum LayerKind {
    /// Studs, plates and blocks: what screws are driven into.
    Framing,
    /// Sheathing, or a panel that comes with its own barrier.
    Sheathing,
    /// A sheet or coat.
    Barrier,
    /// Insulation.
    Boards,
    /// Battens or mats that keep the cladding off the barrier.
    Furring,
    /// The cladding, which is seen.
    Cladding,
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct LayerSpec {
    id: String,
    name: String,
    of: LayerKind,
    thick: String,
    #[serde(default)]
    when: String,
}

/// One layer.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WallLayer {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// The function of the layer in the wall.
    pub of: LayerKind,
    /// How thick.
    pub thick: Length,
}

/// The layers of a wall from inside to outside.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BuildUp {
    /// From the stud to the face.
    pub layers: Vec<WallLayer>,
}

impl BuildUp {
    /// The build-up of a wall with these answers.
    ///
    /// # Errors
    /// What does not read, if the data were broken; a test keeps it whole.
    pub fn of(answers: &Answers, figures: &Figures) -> Result<Self, String> {
        let env = Env::of(figures);
        let layer = |spec: &LayerSpec| {
            let thick = env.length(&spec.thick).map_err(|e| format!("the build-up's layer {}: {e}", spec.id))?;
            Ok(WallLayer { id: spec.id.clone(), name: spec.name.clone(), of: spec.of, thick })
        };
        let here = specs()?.iter().filter(|l| holds(&l.when, answers));
        Ok(Self { layers: here.map(layer).collect::<Result<_, String>>()? })
    }

    /// The thickness of some layers together. Sheets and coats count as nothing.
    fn sum(&self, is: impl Fn(LayerKind) -> bool) -> Length {
        self.layers.iter().filter(|l| l.of != LayerKind::Barrier && is(l.of)).map(|l| l.thick).sum()
    }

    /// From the face of the framing to the face of the wall.
    pub fn outside_framing(&self) -> Length {
        self.sum(|k| k != LayerKind::Framing)
    }

    /// From the barrier to the face of the wall: what lies outside the innermost sheet, coat or faced panel, or outside the boards where
    /// their face is the plane.
    pub fn outside_barrier(&self) -> Length {
        let plane = self.layers.iter().position(|l| l.id == "face-boards" || l.of == LayerKind::Barrier);
        let plane = plane.or_else(|| self.layers.iter().rposition(|l| l.of == LayerKind::Sheathing));
        let outside = self.layers.iter().skip(plane.map_or(0, |p| p + 1));
        outside.filter(|l| l.of != LayerKind::Barrier).map(|l| l.thick).sum()
    }

    /// The least length of screws that hold furring through boards and sheathing: all of it and the bite into the stud.
    pub fn furring_screw(&self, figures: &Figures) -> Length {
        self.sum(|k| !matches!(k, LayerKind::Framing | LayerKind::Cladding)) + figures.length(fig::SCREW_BITE)
    }
}

fn specs() -> Result<&'static [LayerSpec], String> {
    #[derive(Deserialize)]
    struct File {
        layer: Vec<LayerSpec>,
    }
    static READ: OnceLock<Result<File, String>> = OnceLock::new();
    let read = || toml::from_str(DATA).map_err(|e| format!("the build-up's data do not read: {e}"));
    READ.get_or_init(read).as_ref().map(|f| f.layer.as_slice()).map_err(Clone::clone)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::profile::Profile;
    use crate::recipe::schools::Schools;
    use std::collections::BTreeMap;

    fn of(given: &[(&str, &str)]) -> (BuildUp, Figures) {
        let given: Answers = given.iter().map(|(q, a)| ((*q).to_owned(), (*a).to_owned())).collect();
        let answers = Schools::of_wall().expect("school data").complete(&given).expect("answers");
        let figures = Profile::general_practice().expect("profile").values(&BTreeMap::new()).expect("values");
        (BuildUp::of(&answers, &figures).expect("layers"), figures)
    }

    #[test]
    fn layers_add_up_from_the_barrier_and_from_the_framing() {
        let inch = Length::inch_fraction;
        let (sheet, figures) =
            of(&[("barrier", "loose"), ("outside", "boards"), ("gap", "battens"), ("cladding", "panel")]);
        let names: Vec<&str> = sheet.layers.iter().map(|l| l.id.as_str()).collect();
        assert_eq!(names, ["stud", "sheathing", "barrier", "boards", "battens", "panels"]);
        assert_eq!(sheet.outside_barrier(), inch(24 + 12 + 5, 16), "1 1/2 + 3/4 + 5/16");
        assert_eq!(sheet.outside_framing(), sheet.outside_barrier() + inch(1, 2));
        assert_eq!(sheet.furring_screw(&figures), inch(17, 4), "1/2 + 1 1/2 + 3/4 and 1 1/2 into the stud");
        // Where the face of the boards is the plane nothing of them stands outside it.
        let (face, _) = of(&[("barrier", "insulation-face"), ("cladding", "open"), ("gap", "battens")]);
        assert_eq!(face.outside_barrier(), inch(3, 2));
        // A faced panel is the plane itself.
        let (panel, _) = of(&[("barrier", "panel"), ("cladding", "plaster"), ("gap", "mat")]);
        assert_eq!(panel.outside_barrier(), inch(5, 4), "3/8 of mat and 7/8 of plaster");
    }

    #[test]
    fn every_set_of_answers_has_framing_sheathing_a_plane_and_a_cladding() {
        for answers in Schools::of_wall().expect("school data").pairs() {
            let figures = Profile::general_practice().expect("profile").values(&BTreeMap::new()).expect("values");
            let layers = BuildUp::of(&answers, &figures).expect("layers").layers;
            for kind in [LayerKind::Framing, LayerKind::Sheathing, LayerKind::Cladding] {
                assert_eq!(layers.iter().filter(|l| l.of == kind).count(), 1, "{answers:?}: {kind:?}");
            }
            assert!(layers.windows(2).all(|w| w[0].of <= w[1].of || w[1].of == LayerKind::Barrier), "{answers:?}");
        }
    }
}
