//! Walls: schools and recipes, courses and panels, what is on a wall and behind its cladding, findings, evenings, orders.

mod advice;
mod building;
mod causes;
mod checks;
mod corners;
mod demo;
mod families;
mod faults;
mod findings;
mod gap;
mod lines_turned;
mod neighbours;
mod nights;
mod orders;
mod penetrations;
mod plans;
mod recipes;
mod remedies;
mod schools;
mod sections;
mod step_pictures;
mod stretches;
mod sweep;
mod tops;
mod verdict;
mod views;
