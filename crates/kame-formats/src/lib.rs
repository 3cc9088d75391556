//! Open formats in and out of Kame: tables in; drawings as SVG, DXF and PDF and the cut list and the order as CSV, the order as XLSX out; the record as paper, table and archive, and in again. The job file itself is the core's.
#![warn(missing_docs)]

mod calendar;
mod code_picture;
mod cut_csv;
mod drawing;
mod dxf_out;
mod ifc;
mod ifc_out;
mod labels;
mod order;
mod paper;
mod pdf;
mod place_labels;
mod raster;
mod record;
mod sheet;
mod svg;
mod table;
mod weather;

pub use calendar::{CALENDAR_COLUMNS, CalendarOf, calendar_ics, calendar_rows, weeks_pdf};
pub use code_picture::code_svg;
pub use cut_csv::cut_list_csv;
pub use drawing::{Anchor, Area, Drawing, Figure, Layer, Line, Text};
pub use dxf_out::dxf;
pub use ifc::read_ifc;
pub use ifc_out::{ModelNote, PROPERTY_SET, write_notes};
pub use labels::labels_pdf;
pub use order::{ORDER_COLUMNS, USE_COLUMNS, order_csv, order_xlsx};
pub use paper::Photo;
pub use pdf::pdf;
pub use place_labels::{PlaceLabel, place_labels_pdf};
pub use raster::{Shot, jpeg};
pub use record::{
    Archive, Damage, Handed, Kept, LARGEST_ARCHIVE, PlacePages, RECORD_COLUMNS, damage_pdf, handover_pdf, read_entries,
    record_csv, record_pdf, record_zip, when,
};
pub use sheet::{load_rows, sum_rows, table_csv, table_xlsx};
pub use svg::svg;
pub use table::read_table;
pub use weather::{WEATHER_COLUMNS, read_weather, weather_csv};
