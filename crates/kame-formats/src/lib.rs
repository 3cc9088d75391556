//! Open formats in and out of Kame: tables in; drawings as SVG, DXF and PDF and the cut list as CSV out. The job file itself is the core's.
#![warn(missing_docs)]

mod cut_csv;
mod drawing;
mod dxf_out;
mod pdf;
mod svg;
mod table;

pub use cut_csv::cut_list_csv;
pub use drawing::{Anchor, Area, Drawing, Figure, Layer, Line, Text};
pub use dxf_out::dxf;
pub use pdf::pdf;
pub use svg::svg;
pub use table::read_table;
