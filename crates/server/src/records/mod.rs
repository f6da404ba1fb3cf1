//! What is kept in PostgreSQL and in the store: one file for each kind, its types and its statements. Nothing here answers
//! a request.

pub(crate) mod cases;
pub(crate) mod frames;
pub(crate) mod jobs;
pub(crate) mod marks;
pub(crate) mod plates;
pub(crate) mod sessions;
pub(crate) mod takes;
pub(crate) mod versioned;
