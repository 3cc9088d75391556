//! How each role is hatched, on screens and in files: pieces are told apart without colour. Screens read the same table.

use crate::recipe::Role;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::OnceLock;

const DATA: &str = include_str!("../../data/hatches.json");

/// The hatch of a role: a tile in inches, repeated.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Hatch {
    /// Whose hatch it is.
    pub role: Role,
    /// Width and height of the tile.
    pub size: [f64; 2],
    /// Name of its fill; empty where what is behind is to be seen.
    pub fill: String,
    /// Lines as an SVG path; empty where it has none.
    #[serde(default)]
    pub lines: String,
    /// How thick they are.
    #[serde(default)]
    pub thick: f64,
    /// Dots: centre and radius of each.
    #[serde(default)]
    pub dots: Vec<[f64; 3]>,
}

/// All hatches, with their colours on a light ground as `#rrggbb`.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Hatches {
    /// Of lines and dots.
    pub stroke: String,
    /// Of fills, by name.
    pub fills: BTreeMap<String, String>,
    /// One for each role.
    pub hatches: Vec<Hatch>,
}

impl Hatches {
    /// The shipped ones.
    ///
    /// # Errors
    /// A sentence if the shipped data did not read; a test keeps it whole.
    pub fn shipped() -> Result<&'static Self, String> {
        static READ: OnceLock<Result<Hatches, String>> = OnceLock::new();
        let read = || serde_json::from_str(DATA).map_err(|e| format!("the table of hatches does not read: {e}"));
        READ.get_or_init(read).as_ref().map_err(Clone::clone)
    }

    /// The fill of a role as `#rrggbb`; `None` where what is behind is to be seen.
    pub fn fill(&self, role: Role) -> Option<&str> {
        let hatch = self.hatches.iter().find(|h| h.role == role)?;
        self.fills.get(&hatch.fill).map(String::as_str)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::Role as R;
    use std::collections::HashSet;

    #[test]
    fn every_role_has_a_hatch_of_its_own_and_its_fill_is_there() {
        let all = Hatches::shipped().expect("data/hatches.json");
        let roles = [
            R::Barrier,
            R::Shape,
            R::Pan,
            R::Lining,
            R::Unit,
            R::Jamb,
            R::Head,
            R::Patch,
            R::Corner,
            R::Apron,
            R::Cap,
            R::Joint,
            R::Band,
            R::Cover,
            R::Furring,
            R::Screen,
            R::Lath,
            R::Cladding,
        ];
        let mut seen = HashSet::new();
        for role in roles {
            let of: Vec<&Hatch> = all.hatches.iter().filter(|h| h.role == role).collect();
            assert_eq!(of.len(), 1, "{role:?}");
            assert!(of[0].fill.is_empty() || all.fills.contains_key(&of[0].fill), "{role:?}");
            let drawn = (of[0].size.map(f64::to_bits), of[0].fill.as_str(), of[0].lines.as_str());
            assert!(seen.insert(drawn), "{role:?} is drawn as another");
        }
        assert_eq!(all.hatches.len(), roles.len());
    }
}
