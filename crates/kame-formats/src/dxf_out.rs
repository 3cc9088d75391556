//! A drawing as DXF, full size in inches, each kind of thing on its own layer.

use crate::drawing::{Anchor, Drawing, Figure, Layer};
use dxf::entities::{Entity, EntityType, Line, LwPolyline, Text};
use dxf::enums::{AcadVersion, HorizontalTextJustification, Units};
use dxf::tables::Layer as Table;
use dxf::{LwPolylineVertex, Point};

/// A drawing as DXF in inches, full size, `y` up: outlines, lines, texts, each on its layer.
///
/// # Errors
/// Where it could not be written.
pub fn dxf(d: &Drawing) -> Result<Vec<u8>, dxf::DxfError> {
    let mut out = dxf::Drawing::new();
    out.header.version = AcadVersion::R2000;
    out.header.default_drawing_units = Units::Inches;
    for layer in Layer::ALL {
        out.add_layer(Table { name: layer.name().into(), ..Table::default() });
    }
    let mut add = |layer: Layer, specific: EntityType| {
        let mut entity = Entity::new(specific);
        entity.common.layer = layer.name().into();
        out.add_entity(entity);
    };
    let point = |p: [f64; 2]| Point::new(p[0], -p[1], 0.0);
    // A hidden edge would show through: of pieces only their outlines are drawn, from inside to outside.
    for f in &d.figures {
        match f {
            Figure::Area(a) => {
                let vertex = |p: &[f64; 2]| LwPolylineVertex { x: p[0], y: -p[1], ..LwPolylineVertex::default() };
                let mut outline =
                    LwPolyline { vertices: a.points.iter().map(vertex).collect(), ..LwPolyline::default() };
                outline.set_is_closed(true);
                add(a.layer, EntityType::LwPolyline(outline));
            }
            Figure::Line(l) if l.layer != Layer::Pieces => {
                let [a, b, c, e] = l.at;
                add(l.layer, EntityType::Line(Line::new(point([a, b]), point([c, e]))));
            }
            Figure::Line(_) => {}
        }
    }
    for t in &d.texts {
        let middle = t.anchor == Anchor::Middle;
        let at = point(t.at);
        let text = Text {
            location: at.clone(),
            second_alignment_point: at,
            text_height: t.size,
            value: t.text.clone(),
            rotation: if t.upright { 90.0 } else { 0.0 },
            horizontal_text_justification: if middle {
                HorizontalTextJustification::Center
            } else {
                HorizontalTextJustification::Left
            },
            ..Text::default()
        };
        add(t.layer, EntityType::Text(text));
    }
    let mut bytes = Vec::new();
    out.save(&mut bytes)?;
    Ok(bytes)
}
