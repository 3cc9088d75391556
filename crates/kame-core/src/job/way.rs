//! A firm's way of building: the answers, figures and products that its jobs follow until one of them leaves it.

use super::bounds::{MOST_ANSWERS, MOST_FIGURES, MOST_PRODUCTS};
use crate::kit::{OwnProduct, ProductsHere, RecordedPair};
use crate::problem::Problem;
use crate::range::NAME;
use crate::recipe::schools::{Answers, Feature};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A way of building under a name.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Way {
    /// What people call it.
    pub name: String,
    /// Answers about the walls; what is not given is the usual.
    #[serde(default)]
    pub wall: Answers,
    /// Answers about what is on them, by what that is; what is not given is each one's own affair.
    #[serde(default)]
    pub features: BTreeMap<Feature, Answers>,
    /// Which product of a kind is used where the plan says a generic one.
    #[serde(default)]
    pub products: ProductsHere,
    /// Figures that are not the shipped profile's, as text.
    #[serde(default)]
    pub figures: BTreeMap<String, String>,
    /// Own products by the generic one they stand for. What is on the truck is no way of building.
    #[serde(default)]
    pub own: BTreeMap<String, OwnProduct>,
    /// What somebody found out about pairs that touch.
    #[serde(default)]
    pub pairs: Vec<RecordedPair>,
}

/// Most pairs of a way.
const MOST_PAIRS: usize = 2_000;

/// What is wrong with the name of a way.
pub(super) fn wrong_name(name: &str) -> Option<String> {
    let n = name.trim().chars().count();
    let printable = !name.chars().any(char::is_control);
    let found = || format!("found {:?}, expected a name of 1 to {} printable characters", shown(name), NAME.most);
    (n == 0 || n > NAME.most || !printable).then(found)
}

fn shown(name: &str) -> String {
    name.chars().take(40).collect()
}

impl Way {
    /// What is wrong with its name, and which of its lists are too long. Answers and figures are checked by the job that takes them.
    pub fn problems(&self, path: &str) -> Vec<Problem> {
        let name = wrong_name(&self.name).map(|m| Problem::new(format!("{path}.name"), m));
        let answers = self.features.values().map(|a| ("features", a.len(), MOST_ANSWERS));
        let counted = [
            ("wall", self.wall.len(), MOST_ANSWERS),
            ("products", self.products.len(), MOST_PRODUCTS),
            ("figures", self.figures.len(), MOST_FIGURES),
            ("own", self.own.len(), MOST_PRODUCTS),
            ("pairs", self.pairs.len(), MOST_PAIRS),
        ];
        let many = counted.into_iter().chain(answers).filter(|(_, found, most)| found > most);
        let many = many.map(|(field, found, most)| {
            Problem::new(format!("{path}.{field}"), format!("found {found} entries, at most {most} in one way"))
        });
        name.into_iter().chain(many).collect()
    }
}
