//! Sizes in recipes: arithmetic over named lengths and numbers, exact.

use crate::length::Length;
use crate::profile::{FigureValue, Figures};
use foldhash::HashMap;
use std::cell::RefCell;
use std::rc::Rc;

/// A value: a length or a plain number.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Value {
    /// A length.
    Length(Length),
    /// A plain number, to multiply or divide with; 0 also stands for no length.
    Number(f64),
}

/// Why an expression has no value.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum ExprError {
    /// A name that stands for nothing.
    #[error("\"{name}\" in \"{expr}\" is not known")]
    Unknown {
        /// The name.
        name: String,
        /// The whole expression.
        expr: String,
    },
    /// The text is no expression.
    #[error("\"{expr}\" is not an expression (stuck at \"{at}\")")]
    Syntax {
        /// The whole expression.
        expr: String,
        /// Where reading stopped.
        at: String,
    },
    /// Kinds that do not go together, such as a length times a length.
    #[error("\"{expr}\" mixes lengths and numbers: {what}")]
    Mixed {
        /// The whole expression.
        expr: String,
        /// What was tried.
        what: &'static str,
    },
}

/// Named values, and behind them the figures in force.
#[derive(Clone, Debug, Default)]
pub struct Env<'a> {
    figures: Figures,
    names: HashMap<&'a str, Value>,
}

impl<'a> Env<'a> {
    /// The figures in force.
    pub fn of(figures: &Figures) -> Self {
        Self { figures: figures.clone(), names: HashMap::default() }
    }

    fn get(&self, name: &str) -> Option<Value> {
        let figure = || match self.figures.get(name)? {
            FigureValue::Length(l) => Some(Value::Length(l)),
            FigureValue::Number(n) => Some(Value::Number(n)),
        };
        self.names.get(name).copied().or_else(figure)
    }

    /// Names a value.
    pub fn set(&mut self, name: &'a str, value: Value) {
        self.names.insert(name, value);
    }

    /// Evaluates to a length.
    ///
    /// # Errors
    /// [`ExprError`] naming the expression.
    pub fn length(&self, expr: &str) -> Result<Length, ExprError> {
        match self.value(expr)? {
            Value::Length(l) => Ok(l),
            Value::Number(0.0) => Ok(Length::ZERO),
            Value::Number(_) => {
                Err(ExprError::Mixed { expr: expr.to_owned(), what: "a number where a length is needed" })
            }
        }
    }

    /// Evaluates to a plain number.
    ///
    /// # Errors
    /// [`ExprError`] naming the expression.
    pub fn number(&self, expr: &str) -> Result<f64, ExprError> {
        match self.value(expr)? {
            Value::Number(n) => Ok(n),
            Value::Length(_) => {
                Err(ExprError::Mixed { expr: expr.to_owned(), what: "a length where a number is needed" })
            }
        }
    }

    /// Evaluates to a value.
    ///
    /// # Errors
    /// [`ExprError`] naming the expression.
    pub fn value(&self, expr: &str) -> Result<Value, ExprError> {
        read(expr)?.value(self, expr)
    }

    /// A text with `{expression}` replaced by inches rounded to 1/16.
    ///
    /// # Errors
    /// [`ExprError`] of the first expression that has no value.
    pub fn fill(&self, text: &str) -> Result<String, ExprError> {
        let mut out = String::with_capacity(text.len());
        let mut rest = text;
        while let Some((before, after)) = rest.split_once('{') {
            let Some((expr, after)) = after.split_once('}') else {
                return Err(ExprError::Syntax { expr: text.to_owned(), at: after.to_owned() });
            };
            out.push_str(before);
            match self.value(expr)? {
                Value::Length(l) => out.push_str(&format!("{}\"", l.inches(16))),
                Value::Number(n) => out.push_str(&n.to_string()),
            }
            rest = after;
        }
        out.push_str(rest);
        Ok(out)
    }
}

/// An expression as it was read: what it says, before any name stands for a value.
enum Node {
    Number(f64),
    Name(Box<str>),
    Negative(Box<Node>),
    /// The sum of two, or with a sign of -1 their difference.
    Sum(Box<[Node; 2]>, i64),
    Product(Box<[Node; 2]>),
    Quotient(Box<[Node; 2]>),
    Least(Vec<Node>),
    Greatest(Vec<Node>),
}

/// Expressions that one thread keeps read. Recipes have a few thousand; where there are more the list begins anew.
const MOST_READ: usize = 20_000;

thread_local! {
    /// The same expressions are asked at every opening, so each is read once and kept by its text.
    static READ: RefCell<HashMap<Box<str>, Rc<Node>>> = RefCell::default();
}

/// An expression by its text.
fn read(text: &str) -> Result<Rc<Node>, ExprError> {
    if let Some(known) = READ.with_borrow(|read| read.get(text).cloned()) {
        return Ok(known);
    }
    let mut p = Parser { whole: text, rest: text.trim() };
    let node = Rc::new(p.sum()?);
    if !p.rest.is_empty() {
        return Err(p.stuck());
    }
    READ.with_borrow_mut(|read| {
        if read.len() == MOST_READ {
            read.clear();
        }
        read.insert(text.into(), Rc::clone(&node));
    });
    Ok(node)
}

impl Node {
    /// Its value where names stand for what `env` says; `whole` is the text it was read from.
    fn value(&self, env: &Env, whole: &str) -> Result<Value, ExprError> {
        let mixed = |what| ExprError::Mixed { expr: whole.to_owned(), what };
        let both = |of: &[Node; 2]| Ok((of[0].value(env, whole)?, of[1].value(env, whole)?));
        let scale = |l: Length, n: f64| Value::Length(Length::from_units((l.units() as f64 * n).round() as i64));
        Ok(match self {
            Self::Number(n) => Value::Number(*n),
            Self::Name(name) => {
                env.get(name).ok_or_else(|| ExprError::Unknown { name: name.to_string(), expr: whole.to_owned() })?
            }
            Self::Negative(of) => match of.value(env, whole)? {
                Value::Length(l) => Value::Length(-l),
                Value::Number(n) => Value::Number(-n),
            },
            Self::Sum(of, sign) => match both(of)? {
                (Value::Length(a), Value::Length(b)) => Value::Length(a + b.times(*sign)),
                (Value::Number(a), Value::Number(b)) => Value::Number(a + *sign as f64 * b),
                (Value::Length(a), Value::Number(0.0)) => Value::Length(a),
                (Value::Number(0.0), Value::Length(b)) => Value::Length(b.times(*sign)),
                _ => return Err(mixed("adding a number to a length")),
            },
            Self::Product(of) => match both(of)? {
                (Value::Length(l), Value::Number(n)) | (Value::Number(n), Value::Length(l)) => scale(l, n),
                (Value::Number(a), Value::Number(b)) => Value::Number(a * b),
                _ => return Err(mixed("this product or quotient")),
            },
            Self::Quotient(of) => match both(of)? {
                (Value::Length(l), Value::Number(n)) if n != 0.0 => scale(l, 1.0 / n),
                (Value::Number(a), Value::Number(b)) if b != 0.0 => Value::Number(a / b),
                _ => return Err(mixed("this product or quotient")),
            },
            Self::Least(of) => of_lengths(of, env, whole, Length::min)?,
            Self::Greatest(of) => of_lengths(of, env, whole, Length::max)?,
        })
    }
}

/// One of several lengths: of each two the one that is `chosen`. There is always one.
fn of_lengths(of: &[Node], env: &Env, whole: &str, chosen: fn(Length, Length) -> Length) -> Result<Value, ExprError> {
    let length = |n: &Node| match n.value(env, whole)? {
        Value::Length(l) => Ok(l),
        Value::Number(0.0) => Ok(Length::ZERO),
        Value::Number(_) => Err(ExprError::Mixed { expr: whole.to_owned(), what: "a number among lengths" }),
    };
    let first = length(&of[0])?;
    let all = of[1..].iter().try_fold(first, |so_far, n| Ok(chosen(so_far, length(n)?)))?;
    Ok(Value::Length(all))
}

struct Parser<'a> {
    whole: &'a str,
    rest: &'a str,
}

impl<'a> Parser<'a> {
    fn stuck(&self) -> ExprError {
        ExprError::Syntax { expr: self.whole.to_owned(), at: self.rest.to_owned() }
    }

    fn take(&mut self, c: char) -> bool {
        match self.rest.strip_prefix(c) {
            Some(rest) => {
                self.rest = rest.trim_start();
                true
            }
            None => false,
        }
    }

    fn word(&mut self, test: impl Fn(char) -> bool) -> &'a str {
        let end = self.rest.find(|c| !test(c)).unwrap_or(self.rest.len());
        let (word, rest) = self.rest.split_at(end);
        self.rest = rest.trim_start();
        word
    }

    fn sum(&mut self) -> Result<Node, ExprError> {
        let mut left = self.product()?;
        loop {
            let sign = if self.take('+') {
                1
            } else if self.take('-') {
                -1
            } else {
                return Ok(left);
            };
            left = Node::Sum(Box::new([left, self.product()?]), sign);
        }
    }

    fn product(&mut self) -> Result<Node, ExprError> {
        let mut left = self.unary()?;
        loop {
            let of: fn(Box<[Node; 2]>) -> Node = if self.take('*') {
                Node::Product
            } else if self.take('/') {
                Node::Quotient
            } else {
                return Ok(left);
            };
            left = of(Box::new([left, self.unary()?]));
        }
    }

    fn unary(&mut self) -> Result<Node, ExprError> {
        if self.take('-') {
            return Ok(Node::Negative(Box::new(self.unary()?)));
        }
        if self.take('(') {
            let v = self.sum()?;
            return if self.take(')') { Ok(v) } else { Err(self.stuck()) };
        }
        let first = self.rest.chars().next().ok_or_else(|| self.stuck())?;
        if first.is_ascii_digit() {
            let at = self.rest;
            let digits = self.word(|c| c.is_ascii_digit() || c == '.');
            let stuck = |_| ExprError::Syntax { expr: self.whole.to_owned(), at: at.to_owned() };
            return digits.parse().map(Node::Number).map_err(stuck);
        }
        let name = self.word(|c| c.is_ascii_alphanumeric() || c == '_');
        if name.is_empty() {
            return Err(self.stuck());
        }
        if self.take('(') { self.function(name) } else { Ok(Node::Name(name.into())) }
    }

    /// `min(a, b, …)` and `max(a, b, …)` of lengths.
    fn function(&mut self, name: &str) -> Result<Node, ExprError> {
        let mut args = vec![self.sum()?];
        while self.take(',') {
            args.push(self.sum()?);
        }
        if !self.take(')') {
            return Err(self.stuck());
        }
        match name {
            "min" => Ok(Node::Least(args)),
            "max" => Ok(Node::Greatest(args)),
            _ => Err(ExprError::Unknown { name: name.to_owned(), expr: self.whole.to_owned() }),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn env() -> Env<'static> {
        let mut env = Env::default();
        env.set("width", Value::Length(Length::inch(41)));
        env.set("flange", Value::Length(Length::inch_fraction(11, 8)));
        env.set("n", Value::Number(3.0));
        env
    }

    #[test]
    fn lengths_add_and_scale_exactly() {
        let is = |expr: &str, num: i64, den: i64| {
            assert_eq!(env().length(expr), Ok(Length::inch_fraction(num, den)), "{expr}")
        };
        is("width + 2 * flange", 175, 4);
        is("width - (flange + flange) / 2", 317, 8);
        is("-flange", -11, 8);
        is("min(width, flange * n)", 33, 8);
        is("max(0, -flange)", 0, 1);
        is("0", 0, 1);
    }

    #[test]
    fn mistakes_in_recipe_data_are_named() {
        let fails = |expr: &str| env().length(expr).expect_err(expr).to_string();
        assert!(fails("widht").contains("\"widht\""));
        assert!(fails("width *").contains("stuck"));
        assert!(fails("width * flange").contains("mixes"));
        assert!(fails("width + 3").contains("mixes"));
        assert!(fails("(width").contains("stuck"));
        assert!(fails("width / 0").contains("mixes"));
        assert!(fails("5").contains("mixes"));
        assert!(fails("sum(width)").contains("not known"));
    }

    #[test]
    fn texts_carry_their_sizes() {
        assert_eq!(env().fill("Cut {width + 2 * flange} long.").as_deref(), Ok("Cut 43 3/4\" long."));
        assert!(env().fill("Cut {width").is_err());
    }
}
