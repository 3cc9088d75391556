//! Bench and truck: kit, quantities, nesting, orders, what is drawn of them.

mod calendar;
mod drawn;
mod growth;
mod kit;
mod loads;
mod nesting;
mod order;
mod overtime;
mod places;
