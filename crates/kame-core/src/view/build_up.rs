//! The build-up of each run of walls as it is shown: layers from the stud to the face, and what follows from them.

use crate::build_up::{BuildUp, LayerKind, WallLayer};
use crate::length::Length;
use crate::plan::Plan;
use serde::Serialize;

/// One layer as it is drawn.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LayerView {
    /// The layer.
    #[serde(flatten)]
    pub layer: WallLayer,
    /// How thick, in words.
    pub thick_says: String,
    /// How thick, in inches.
    pub thick_in: f64,
}

/// The build-up of a run of walls.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BuildUpView {
    /// Names of the walls that are built up so.
    pub walls: Vec<String>,
    /// From the stud to the face.
    pub layers: Vec<LayerView>,
    /// What follows from it, as sentences.
    pub says: Vec<String>,
}

/// The build-ups of all walls; walls built up alike are told once.
///
/// # Errors
/// What does not read, if the data were broken; a test keeps it whole.
pub fn build_ups(plan: &Plan) -> Result<Vec<BuildUpView>, String> {
    let of = |f: &crate::plan::Finish| BuildUp::of(&f.answers, &plan.basis.figures);
    let all: Vec<BuildUp> = plan.walls.finishes.iter().map(of).collect::<Result<_, _>>()?;
    let thickest = all.iter().map(BuildUp::outside_framing).max().unwrap_or(Length::ZERO);
    let named = |run: &crate::plan::Finish| {
        let on = plan.walls.footprint.iter().filter(|w| run.rect.u0 <= w.along.0 && w.along.0 < run.rect.u1);
        on.map(|w| w.name.clone()).collect::<Vec<_>>()
    };
    let names: Vec<Vec<String>> = plan.walls.finishes.iter().map(named).collect();
    let out_most = all.iter().position(|b| b.outside_framing() == thickest);
    let out_most = out_most.and_then(|i| names[i].first().cloned()).unwrap_or_default();
    let view = |(b, walls): (&BuildUp, &Vec<String>)| {
        let layer = |l: &WallLayer| LayerView {
            layer: l.clone(),
            thick_says: l.thick.to_string(),
            thick_in: l.thick.to_inches_f64(),
        };
        BuildUpView {
            walls: walls.clone(),
            layers: b.layers.iter().map(layer).collect(),
            says: says(plan, b, thickest, &out_most),
        }
    };
    // Walls that are built up alike are shown once.
    let mut out: Vec<(usize, BuildUpView)> = Vec::new();
    for (i, (b, walls)) in all.iter().zip(&names).enumerate() {
        match out.iter_mut().find(|(of, _)| all[*of] == *b) {
            Some((_, alike)) => alike.walls.extend(walls.iter().cloned()),
            None => out.push((i, view((b, walls)))),
        }
    }
    Ok(out.into_iter().map(|(_, v)| v).collect())
}

fn says(plan: &Plan, b: &BuildUp, thickest: Length, out_most: &str) -> Vec<String> {
    let outside = b.outside_barrier();
    let mut out = vec![format!(
        "From the framing to the face {}; {outside} of it outside the barrier: a pipe or box stands proud of the barrier by that and what shows.",
        b.outside_framing()
    )];
    let has = |kind| b.layers.iter().any(|l| l.of == kind);
    if has(LayerKind::Furring) && b.layers.iter().any(|l| l.id == "battens") {
        out.push(format!("Screws of battens at least {} long.", b.furring_screw(&plan.basis.figures)));
    }
    let gap = b.layers.iter().filter(|l| l.of == LayerKind::Furring).map(|l| l.thick).sum::<Length>();
    if gap > Length::ZERO {
        out.push(format!("Gap {gap}: screens are as deep as that, and bent round it."));
    }
    if let Some(cladding) = b.layers.iter().find(|l| l.of == LayerKind::Cladding) {
        out.push(format!("Ground of trims and beads: {}.", cladding.thick));
    }
    let short = thickest - b.outside_framing();
    if short > Length::ZERO {
        out.push(format!("To come into one plane with {out_most}: build it out by {short}."));
    }
    out
}
