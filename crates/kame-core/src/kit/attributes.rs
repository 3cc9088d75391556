//! What is known of a material, attribute by attribute, as text a crew can change: which there are and what is believed is data.

use super::Product;
use crate::length::Length;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::sync::OnceLock;

const DATA: &str = include_str!("../../data/attributes.toml");
/// Longest text of an attribute.
const LONGEST: usize = 240;

/// How an attribute is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum AttributeKind {
    /// Words.
    Text,
    /// A number.
    Number,
    /// A whole number.
    Whole,
    /// A length.
    Length,
    /// `yes` or `no`.
    Yes,
    /// Words with commas between.
    List,
    /// Two numbers, such as `12-25`.
    Range,
}

/// Something that can be known of a material.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Attribute {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// How it is written.
    pub kind: AttributeKind,
    /// In which unit; empty where it has none.
    #[serde(default)]
    pub unit: String,
    /// Least that is believed; lengths in inches.
    #[serde(default)]
    pub least: Option<f64>,
    /// Greatest that is believed; lengths in inches.
    #[serde(default)]
    pub most: Option<f64>,
}

/// Every attribute a material can have.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn attributes() -> Result<&'static [Attribute], String> {
    #[derive(Deserialize)]
    struct File {
        attribute: Vec<Attribute>,
    }
    static READ: OnceLock<Result<File, String>> = OnceLock::new();
    let read = || toml::from_str(DATA).map_err(|e| format!("the data of attributes does not read: {e}"));
    READ.get_or_init(read).as_ref().map(|f| f.attribute.as_slice()).map_err(Clone::clone)
}

impl Attribute {
    /// The value of a text; empty is "not known".
    ///
    /// # Errors
    /// A sentence naming value, limit and remedy.
    pub fn read(&self, text: &str) -> Result<Value, String> {
        let text = text.trim();
        let found: String = text.chars().take(40).collect();
        let wrong = |expected: &str| Err(format!("{}: found \"{found}\", expected {expected}", self.name));
        if text.chars().count() > LONGEST || text.chars().any(char::is_control) {
            return wrong(&format!("at most {LONGEST} plain characters"));
        }
        if text.is_empty() {
            return Ok(match self.kind {
                AttributeKind::Text => json!(""),
                AttributeKind::List => json!([]),
                AttributeKind::Yes => json!(false),
                _ => Value::Null,
            });
        }
        let (least, most) = (self.least.unwrap_or(f64::MIN), self.most.unwrap_or(f64::MAX));
        let believed = |n: &f64| (least..=most).contains(n);
        let between = format!("between {least} and {most} {}, or nothing where it is not known", self.unit);
        let number = |t: &str| t.trim().parse::<f64>().ok().filter(believed);
        match self.kind {
            AttributeKind::Text => Ok(json!(text)),
            AttributeKind::List => {
                Ok(json!(text.split(',').map(str::trim).filter(|w| !w.is_empty()).collect::<Vec<_>>()))
            }
            AttributeKind::Yes => match text.to_lowercase().as_str() {
                "yes" | "y" | "true" | "1" => Ok(json!(true)),
                "no" | "n" | "false" | "0" => Ok(json!(false)),
                _ => wrong("yes or no"),
            },
            AttributeKind::Number => {
                number(text).map_or_else(|| wrong(&format!("a number {between}")), |n| Ok(json!(n)))
            }
            AttributeKind::Whole => match number(text).filter(|n| n.fract() == 0.0) {
                Some(n) => Ok(json!(n as u32)),
                None => wrong(&format!("a whole number {between}")),
            },
            AttributeKind::Length => match Length::parse(text) {
                Ok(l) if believed(&l.to_inches_f64()) => Ok(json!(l)),
                _ => wrong(&format!("a length between {least} and {most} in, or nothing where it is not known")),
            },
            AttributeKind::Range => {
                let ends: Option<Vec<f64>> = text.replace('–', "-").split('-').map(number).collect();
                match ends.as_deref() {
                    Some([lo, hi]) if lo <= hi => Ok(json!([lo, hi])),
                    _ => wrong(&format!("two numbers such as 12-25, {between}")),
                }
            }
        }
    }

    /// The text of what is known of a material.
    pub fn write(&self, product: &Value) -> String {
        let plain = |v: &Value| match v {
            Value::String(s) => s.clone(),
            Value::Number(n) => n.as_f64().map_or_else(|| n.to_string(), |n| n.to_string()),
            _ => String::new(),
        };
        match &product[&self.id] {
            Value::Bool(true) => "yes".into(),
            Value::Bool(false) if self.kind == AttributeKind::Yes => "no".into(),
            Value::Array(list) => {
                let between = if self.kind == AttributeKind::Range { "-" } else { ", " };
                list.iter().map(plain).collect::<Vec<_>>().join(between)
            }
            other => plain(other),
        }
    }
}

/// What is known of a material, as text by attribute.
pub fn known(product: &Product) -> Result<BTreeMap<String, String>, String> {
    let value = serde_json::to_value(product).map_err(|e| e.to_string())?;
    Ok(attributes()?.iter().map(|a| (a.id.clone(), a.write(&value))).collect())
}

/// A material with attributes of somebody's own in place of the generic ones.
///
/// # Errors
/// Everything that is wrong with them, a sentence each.
pub fn with(product: &Product, own: &BTreeMap<String, String>) -> Result<Product, Vec<String>> {
    let one = |m: String| vec![m];
    let mut value = serde_json::to_value(product).map_err(|e| one(e.to_string()))?;
    let list = attributes().map_err(one)?;
    let mut wrong = Vec::new();
    for (id, text) in own {
        match list.iter().find(|a| a.id == *id) {
            Some(a) => match a.read(text) {
                Ok(v) => value[id] = v,
                Err(m) => wrong.push(m),
            },
            None => {
                let ids: Vec<&str> = list.iter().map(|a| a.id.as_str()).collect();
                wrong.push(format!("there is no attribute \"{id}\"; choose one of: {}", ids.join(", ")));
            }
        }
    }
    if !wrong.is_empty() {
        return Err(wrong);
    }
    let made: Product = serde_json::from_value(value).map_err(|e| one(e.to_string()))?;
    if let (Some(least), Some(most)) = (made.least_f, made.most_f)
        && least > most
    {
        return Err(one(format!(
            "least surface temperature {least} °F is above the greatest, {most} °F: put one right"
        )));
    }
    Ok(made)
}

#[cfg(test)]
mod tests {
    use super::super::products;
    use super::*;

    #[test]
    fn every_attribute_is_one_of_a_product_and_every_shipped_product_reads_again_from_its_text() {
        for p in products().expect("products") {
            let text = known(p).expect("text");
            assert_eq!(with(p, &text).as_ref(), Ok(p), "{}", p.name);
        }
        let value = serde_json::to_value(&products().expect("products")[0]).expect("value");
        for a in attributes().expect("attributes") {
            assert!(value.as_object().is_some_and(|o| o.contains_key(&a.id)), "{}", a.id);
            assert_eq!(a.least.is_some(), a.most.is_some(), "{}", a.id);
        }
    }

    #[test]
    fn what_cannot_be_is_refused_with_value_and_limit() {
        let product = &products().expect("products")[0];
        let said = |id: &str, text: &str| {
            with(product, &BTreeMap::from([(id.to_owned(), text.to_owned())])).expect_err("refused").join("; ")
        };
        assert!(said("thickness_mil", "-4").contains("found \"-4\", expected a number between 0.5 and 500 mil"));
        assert!(said("thickness_mil", "NaN").contains("between"));
        assert!(said("coats", "1.5").contains("whole number"));
        assert!(said("wet_mil", "25-12").contains("two numbers such as 12-25"));
        assert!(said("dry", "perhaps").contains("yes or no"));
        assert!(said("lap_vertical", "a hand").contains("a length between"));
        assert!(said("colour", "red").contains("no attribute \"colour\""));
        let both = BTreeMap::from([("least_f".to_owned(), "90".to_owned()), ("most_f".to_owned(), "40".to_owned())]);
        assert!(with(product, &both).expect_err("refused")[0].contains("above the greatest"));
    }

    #[test]
    fn an_own_value_takes_the_place_of_the_generic_one_and_nothing_makes_it_unknown() {
        let product = products().expect("products").iter().find(|p| p.name == "Flashing tape").expect("tape");
        let own =
            |id: &str, text: &str| with(product, &BTreeMap::from([(id.to_owned(), text.to_owned())])).expect("read");
        assert_eq!(own("chemistry", "butyl").chemistry, "butyl");
        assert_eq!(own("least_f", "").least_f, None);
        assert_eq!(own("primer", "wood, concrete,").primer, ["wood", "concrete"]);
        assert_eq!(own("wet_mil", "12–25").wet_mil, Some([12.0, 25.0]));
        assert_eq!(own("lap_end", "3 in").lap_end, Some(Length::inch(3)));
        assert_eq!(own("asks", "").least_f, product.least_f, "the others stay");
    }
}
