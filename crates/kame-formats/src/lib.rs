//! Open formats out of Kame: the elevation as SVG, the cut list as CSV. The job file itself is the core's.
#![warn(missing_docs)]

mod cut_csv;
mod svg;

pub use cut_csv::cut_list_csv;
pub use svg::elevation_svg;
