//! Go, prepare or wait: what is measured now against what a product asks (handbook 6.10).

use crate::kit::Product;
use crate::problem::Problem;
use crate::profile::{Figures, fig};
use crate::range::Range;
use serde::{Deserialize, Serialize};

/// What it is like at the wall now. What nobody measured is left out.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Conditions {
    /// Temperature of the surface, °F.
    pub surface_f: Option<f64>,
    /// Temperature of the air, °F.
    pub air_f: Option<f64>,
    /// Humidity of the air, %.
    pub humidity: Option<f64>,
    /// Wet to the touch.
    pub wet: bool,
    /// Frost on it.
    pub frost: bool,
    /// Sun on it.
    pub sun: bool,
    /// Wind, mph.
    pub wind_mph: Option<f64>,
    /// Hours until it rains, by the forecast.
    pub rain_in_h: Option<f64>,
}

/// What can be measured of it; anything else is a slip of the finger, or another unit.
const TEMPERATURE: Range<f64> = Range {
    what: "a temperature in °F",
    least: -60.0,
    most: 250.0,
    remedy: "look at the instrument and its unit again",
};
const HUMIDITY: Range<f64> =
    Range { what: "humidity in percent", least: 0.0, most: 100.0, remedy: "look at the instrument and its unit again" };
const WIND: Range<f64> =
    Range { what: "wind in mph", least: 0.0, most: 200.0, remedy: "look at the mast and its unit again" };
const HOURS: Range<f64> =
    Range { what: "hours until it rains", least: 0.0, most: 240.0, remedy: "leave it out where no rain is near" };

impl Conditions {
    /// What of it cannot be, with paths under `path`.
    pub fn problems(&self, path: &str) -> Vec<Problem> {
        [
            ("surface_f", self.surface_f, TEMPERATURE),
            ("air_f", self.air_f, TEMPERATURE),
            ("humidity", self.humidity, HUMIDITY),
            ("wind_mph", self.wind_mph, WIND),
            ("rain_in_h", self.rain_in_h, HOURS),
        ]
        .into_iter()
        .filter_map(|(field, value, range)| {
            range.check(value?).err().map(|m| Problem::new(format!("{path}.{field}"), m))
        })
        .collect()
    }
}

/// What may be done now.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Go {
    /// Go on.
    Go,
    /// Something has to be done first.
    Prepare,
    /// Not now.
    Wait,
}

/// What is said of a step that sticks, coats or seals.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct GoAnswer {
    /// What may be done.
    pub go: Go,
    /// Why, and what to do, what matters most first.
    pub says: Vec<String>,
    /// Minutes until it skins as it is now; `null` where nothing is known of that.
    pub skin_min: Option<f64>,
    /// Dew point, °F; `null` where air or humidity were not measured.
    pub dew_f: Option<f64>,
}

fn celsius(f: f64) -> f64 {
    (f - 32.0) / 1.8
}

/// Dew point in °F by Magnus' formula (a = 17.62, b = 243.12 °C; Sonntag 1990).
pub fn dew_point_f(air_f: f64, humidity: f64) -> f64 {
    let (a, b) = (17.62, 243.12);
    let t = celsius(air_f);
    let g = (humidity.clamp(1.0, 100.0) / 100.0).ln() + a * t / (b + t);
    b * g / (a - g) * 1.8 + 32.0
}

/// Minutes until a product skins: by its own figures where it has them, else halved for each so many degrees above 75 °F and doubled below; less when it
/// is humid, more when it is dry.
pub fn skin_minutes(product: &Product, at_f: f64, humidity: Option<f64>, figures: &Figures) -> Option<f64> {
    let base = product.skin_min?;
    let warm = match product.skin_per_10f {
        Some(per) => per.powf((at_f - 75.0) / 10.0),
        None => 0.5_f64.powf((at_f - 75.0) / figures.number(fig::SKIN_HALVES_F)),
    };
    let damp = match (humidity, product.skin_per_10rh) {
        (Some(h), Some(per)) => per.powf((h - 50.0) / 10.0),
        (Some(h), None) if h >= figures.number(fig::HUMID_FROM) => figures.number(fig::SKIN_HUMID),
        (Some(h), None) if h <= figures.number(fig::DRY_TO) => figures.number(fig::SKIN_DRY),
        _ => 1.0,
    };
    Some(base * warm * damp)
}

/// How a product is put on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PutOn {
    /// Stuck.
    Stuck,
    /// Coated.
    Coated,
    /// As a bead or smear.
    Sealed,
    /// Hung: a sheet in the wind.
    Hung,
}

/// Holds what it is like now against what a product asks.
pub fn go(product: &Product, put_on: PutOn, now: &Conditions, figures: &Figures) -> GoAnswer {
    let surface = now.surface_f;
    let skin = surface.or(now.air_f).and_then(|f| skin_minutes(product, f, now.humidity, figures));
    let dew = now.air_f.zip(now.humidity).map(|(t, h)| dew_point_f(t, h));
    let asked = Situation { product, put_on, now, figures, skin, dew };
    let mut all = asked.temperature();
    all.extend(asked.dryness());
    all.extend(asked.rain_and_sun());
    all.extend(asked.wind());
    // What was asked for and not measured is said, or silence would be a go.
    if let (Some(least), None, true) = (product.least_f.filter(|_| asked.sticks()), surface, all.is_empty()) {
        let says = format!("Measure the surface first: {} wants at least {least} °F.", product.name);
        all.push((Go::Prepare, says));
    }
    all.sort_by_key(|(go, _)| std::cmp::Reverse(*go));
    GoAnswer {
        go: all.first().map_or(Go::Go, |(go, _)| *go),
        says: all.into_iter().map(|(_, s)| s).collect(),
        skin_min: skin,
        dew_f: dew,
    }
}

/// What weather is judged by beside what a product asks, in words.
pub fn go_rules(figures: &Figures) -> Vec<String> {
    let n = |key| figures.number(key);
    vec![
        format!(
            "Nobody on a ladder above {} mph; no loose sheet above {} mph: wait.",
            n(fig::WIND_LADDER),
            n(fig::WIND_SHEET)
        ),
        format!(
            "Colder than a product asks, by up to {} °F: warm it, prepare. Colder than that: wait for the sun.",
            n(fig::WARM_BY_F)
        ),
        "Frost, or wet to the touch under what wants a dry surface: prepare.".to_owned(),
        format!(
            "Dew: where the surface is less than {} °F above the dew point (humid air, cold wall), dry or warm it: prepare.",
            n(fig::DEW_MARGIN_F)
        ),
        format!("Rain before it has skinned and {} min more: wait.", n(fig::RAIN_MARGIN)),
        format!("Sun on a coat, or a skin in less than {} min: prepare.", n(fig::SHORT_SKIN)),
    ]
}

/// What is asked, with what follows from it.
struct Situation<'a> {
    product: &'a Product,
    put_on: PutOn,
    now: &'a Conditions,
    figures: &'a Figures,
    /// Minutes to a skin.
    skin: Option<f64>,
    /// The dew point, °F.
    dew: Option<f64>,
}

impl Situation<'_> {
    fn sticks(&self) -> bool {
        self.put_on != PutOn::Hung
    }

    /// Frost, too cold, too hot.
    fn temperature(&self) -> Vec<(Go, String)> {
        let (product, now, name) = (self.product, self.now, &self.product.name);
        let mut all: Vec<(Go, String)> = Vec::new();
        if !self.sticks() {
            return all;
        }
        if now.frost {
            let says = "Frost: dry and warm what is under it first. Never a flame near solvent or foam.";
            all.push((Go::Prepare, says.into()));
        }
        let Some(f) = now.surface_f else { return all };
        if let Some(least) = product.least_f {
            let cold = least - f;
            if cold > self.figures.number(fig::WARM_BY_F) {
                all.push((
                    Go::Wait,
                    format!("{f:.0} °F: {cold:.0} °F too cold for {name} ({least} °F). Wait until the sun is on it."),
                ));
            } else if cold > 0.0 {
                all.push((
                    Go::Prepare,
                    format!(
                        "{f} °F: warm it to {least} °F for {name}, or wait for the sun; prime where the maker says so."
                    ),
                ));
            }
        }
        if let Some(most) = product.most_f.filter(|most| f > *most) {
            let says = format!("{f:.0} °F: too hot for {name} ({most} °F). Shade it or work the shady side.");
            all.push((Go::Prepare, says));
        }
        all
    }

    /// True for what wants a dry surface.
    fn minds_wet(&self) -> bool {
        self.product.dry && self.sticks()
    }

    /// Wet, or dew to come.
    fn dryness(&self) -> Option<(Go, String)> {
        let name = &self.product.name;
        if !self.minds_wet() {
            return None;
        }
        if self.now.wet {
            return Some((Go::Prepare, format!("Wet: wipe and dry it, {name} wants a dry surface.")));
        }
        let (d, f) = self.dew.zip(self.now.surface_f)?;
        let to = d + self.figures.number(fig::DEW_MARGIN_F);
        let says = || {
            format!("Dew forms at {d:.0} °F: warm it to {to:.0} °F or dry it just before, {name} wants a dry surface.")
        };
        (f < to).then(|| (Go::Prepare, says()))
    }

    /// Rain before it has skinned, sun on a coat, a skin that comes soon.
    fn rain_and_sun(&self) -> Vec<(Go, String)> {
        let (now, name) = (self.now, &self.product.name);
        let mut all = Vec::new();
        if let Some(rain) = now.rain_in_h.filter(|_| self.sticks()) {
            let needs_h = self.skin.unwrap_or(0.0) / 60.0;
            let soon = rain <= needs_h + self.figures.number(fig::RAIN_MARGIN) / 60.0;
            if soon && (self.skin.is_some() || self.minds_wet()) {
                let skins = self.skin.map_or_else(String::new, |m| format!(" and {name} skins in {m:.0} min"));
                all.push((Go::Wait, format!("Rain in {rain} h{skins}: wait until it has passed, or cover it.")));
            }
        }
        if self.put_on == PutOn::Coated && now.sun {
            all.push((Go::Prepare, "Sun on it: a coat blisters. Shade it or work the shady side.".into()));
        }
        if let Some(m) = self.skin.filter(|m| self.sticks() && *m < self.figures.number(fig::SHORT_SKIN)) {
            all.push((Go::Prepare, format!("Skins in {m:.0} min: lay shorter runs and tool at once.")));
        }
        all
    }

    /// Wind on a ladder, and on a loose sheet.
    fn wind(&self) -> Option<(Go, String)> {
        let wind = self.now.wind_mph?;
        let (ladder, sheet) = (self.figures.number(fig::WIND_LADDER), self.figures.number(fig::WIND_SHEET));
        if wind > ladder {
            return Some((Go::Wait, format!("Wind {wind:.0} mph: nobody on a ladder above {ladder} mph.")));
        }
        (self.put_on == PutOn::Hung && wind > sheet)
            .then(|| (Go::Wait, format!("Wind {wind:.0} mph: no loose sheet above {sheet} mph.")))
    }
}
