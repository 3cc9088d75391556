//! Open formats in and out of Kame: tables in; the elevation as SVG and the cut list as CSV out. The job file itself is the core's.
#![warn(missing_docs)]

mod cut_csv;
mod svg;
mod table;

pub use cut_csv::cut_list_csv;
pub use svg::elevation_svg;
pub use table::read_table;
