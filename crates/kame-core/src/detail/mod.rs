//! Details: recipes as data over shared actions. A recipe names surfaces, pieces, cuts and steps with sizes as expressions; what is built
//! from it for one opening is plain geometry.

pub mod course;
pub mod expr;
pub mod instance;
mod mirror;
pub mod recipe;
pub mod schools;

pub use instance::{Detail, instantiate};
pub use recipe::Recipe;
