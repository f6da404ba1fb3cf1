//! The handlers: parse, authorise, call, answer.

pub(crate) mod bench;
pub(crate) mod builds;
pub(crate) mod calibration;
pub(crate) mod candidates;
pub(crate) mod cases;
pub(crate) mod compare;
pub(crate) mod frames;
pub(crate) mod health;
pub(crate) mod jobs;
pub(crate) mod kit;
pub(crate) mod marks;
pub(crate) mod plans;
pub(crate) mod plates;
pub(crate) mod recipes;
pub(crate) mod set_parts;
pub(crate) mod sets;
pub(crate) mod shot;
pub(crate) mod tables;
pub(crate) mod takes;
pub(crate) mod tether;
pub(crate) mod wishes;
