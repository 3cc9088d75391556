//! What is planned for the openings of a building model, written into the same model: a set of properties for each (IFC 2×3 and 4 in STEP). Everything
//! else in the file stays byte for byte; sets that were written before are replaced.

use ifc_lite_core::{EntityDecoder, EntityScanner};
use kame_core::stop::Stop;
use sha2::{Digest, Sha256};
use std::collections::{HashMap, HashSet};
use std::fmt::Write;

/// Name of the set.
pub const PROPERTY_SET: &str = "Kame_Flashing";

/// What is said of one thing of a model.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ModelNote {
    /// Its id in the model.
    pub id: String,
    /// Properties by name, in their order.
    pub properties: Vec<(String, String)>,
}

/// Entities of a model that matter here.
#[derive(Default)]
struct Scanned {
    last: u32,
    owner: Option<u32>,
    /// Windows, doors and holes by their ids in the model.
    things: HashMap<String, u32>,
    /// Sets that were written before, and what belongs to them.
    ours: HashSet<u32>,
    values: HashSet<u32>,
    /// From where to where each entity that may have to go stands.
    spans: Vec<(u32, usize, usize)>,
    /// Relations with the set that each gives to things.
    relations: Vec<(u32, u32)>,
}

fn scan(bytes: &[u8], stop: &Stop) -> Result<Scanned, String> {
    let mut out = Scanned::default();
    let decoder = EntityDecoder::new(bytes);
    let mut scanner = EntityScanner::new(bytes);
    let mut seen = 0_usize;
    while let Some((id, kind, start, end)) = scanner.next_entity() {
        seen += 1;
        if seen.is_multiple_of(10_000) {
            stop.check()?;
        }
        out.last = out.last.max(id);
        let kind = kind.to_uppercase();
        let wanted = matches!(
            kind.as_str(),
            "IFCWINDOW"
                | "IFCWINDOWSTANDARDCASE"
                | "IFCDOOR"
                | "IFCDOORSTANDARDCASE"
                | "IFCOPENINGELEMENT"
                | "IFCPROPERTYSET"
                | "IFCPROPERTYSINGLEVALUE"
                | "IFCRELDEFINESBYPROPERTIES"
                | "IFCOWNERHISTORY"
        );
        if !wanted {
            continue;
        }
        let Ok(e) = decoder.decode_at_uncached(start, end) else { continue };
        match kind.as_str() {
            "IFCOWNERHISTORY" => out.owner = out.owner.or(Some(id)),
            "IFCPROPERTYSET" if e.get_string(2) == Some(PROPERTY_SET) => {
                out.ours.insert(id);
                out.values.extend(e.get_refs(4).unwrap_or_default());
                out.spans.push((id, start, end));
            }
            "IFCPROPERTYSET" => {}
            "IFCPROPERTYSINGLEVALUE" => out.spans.push((id, start, end)),
            "IFCRELDEFINESBYPROPERTIES" => {
                out.relations.extend(e.get_ref(5).map(|set| (id, set)));
                out.spans.push((id, start, end));
            }
            _ => drop(e.get_string(0).map(|of| out.things.insert(of.to_owned(), id))),
        }
    }
    Ok(out)
}

/// The same id each time for the same thing: 128 bits in 22 digits of 64, as models write them.
fn id_of(thing: &str, what: &str) -> String {
    const DIGITS: &[u8; 64] = b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_$";
    let hash = Sha256::digest(format!("{PROPERTY_SET} {what} {thing}"));
    let bits = hash[..16].iter().fold(0_u128, |all, b| all << 8 | u128::from(*b));
    (0..22).rev().map(|n| char::from(DIGITS[(bits >> (6 * n) & 63) as usize])).collect()
}

/// A text as STEP writes it.
fn text(of: &str) -> String {
    let mut out = String::from("'");
    for c in of.chars().filter(|c| !c.is_control()) {
        match c {
            '\'' => out.push_str("''"),
            '\\' => out.push_str("\\\\"),
            c if c.is_ascii() => out.push(c),
            c => {
                let mut units = [0; 2];
                let hex: String = c.encode_utf16(&mut units).iter().map(|u| format!("{u:04X}")).collect();
                let _ = write!(out, "\\X2\\{hex}\\X0\\");
            }
        }
    }
    out + "'"
}

/// The model with a set of properties for each thing that is in it. Says how many those are.
///
/// # Errors
/// A sentence where it is no model, or nobody waits any more.
pub fn write_notes(bytes: &[u8], notes: &[ModelNote], stop: &Stop) -> Result<(Vec<u8>, usize), String> {
    let found = scan(bytes, stop)?;
    const END: &[u8] = b"ENDSEC;";
    let Some(end) = bytes.windows(END.len()).rposition(|w| w == END) else {
        return Err("the file ends in the midst of its data: export the model again".into());
    };
    let gone: HashSet<u32> = found
        .relations
        .iter()
        .filter(|(_, set)| found.ours.contains(set))
        .map(|(id, _)| *id)
        .chain(found.ours.iter().copied())
        .chain(found.values.iter().copied())
        .collect();
    let mut cuts: Vec<(usize, usize)> =
        found.spans.iter().filter(|(id, _, _)| gone.contains(id)).map(|(_, from, to)| (*from, *to)).collect();
    cuts.sort_unstable();
    let mut out = Vec::with_capacity(bytes.len());
    let mut at = 0;
    for (from, to) in cuts {
        out.extend_from_slice(&bytes[at..from.max(at)]);
        at = to;
        // The end of its line belongs to it.
        while bytes.get(at).is_some_and(|b| matches!(b, b'\r' | b'\n' | b';')) {
            at += 1;
        }
    }
    out.extend_from_slice(&bytes[at.min(end)..end]);
    let owner = found.owner.map_or_else(|| "$".to_owned(), |id| format!("#{id}"));
    let mut next = u64::from(found.last);
    let mut said = 0;
    for note in notes {
        let Some(thing) = found.things.get(&note.id) else { continue };
        let mut lines = String::new();
        let first = next + 1;
        for (name, value) in &note.properties {
            next += 1;
            let _ = writeln!(lines, "#{next}=IFCPROPERTYSINGLEVALUE({},$,IFCTEXT({}),$);", text(name), text(value));
        }
        let values: Vec<String> = (first..=next).map(|n| format!("#{n}")).collect();
        let (set, relation) = (id_of(&note.id, "set"), id_of(&note.id, "relation"));
        let _ =
            writeln!(lines, "#{}=IFCPROPERTYSET('{set}',{owner},'{PROPERTY_SET}',$,({}));", next + 1, values.join(","));
        let _ = writeln!(
            lines,
            "#{}=IFCRELDEFINESBYPROPERTIES('{relation}',{owner},$,$,(#{thing}),#{});",
            next + 2,
            next + 1
        );
        next += 2;
        if next > u64::from(u32::MAX) {
            return Err("the model has no numbers left for more in it".into());
        }
        out.extend_from_slice(lines.as_bytes());
        said += 1;
    }
    out.extend_from_slice(&bytes[end..]);
    Ok((out, said))
}
