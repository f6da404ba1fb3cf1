//! What is kept in PostgreSQL and in the store: one file for each kind, its types and its statements. Nothing here answers
//! a request.

pub(crate) mod admin;
pub(crate) mod assignments;
pub(crate) mod briefs;
pub(crate) mod cases;
pub(crate) mod classes;
pub(crate) mod drafts;
pub(crate) mod frames;
pub(crate) mod gradebook;
pub(crate) mod grading;
pub(crate) mod groups;
pub(crate) mod jobs;
pub(crate) mod marks;
pub(crate) mod peers;
pub(crate) mod pictures;
pub(crate) mod plates;
pub(crate) mod removal;
pub(crate) mod roles;
pub(crate) mod rounds;
pub(crate) mod series;
pub(crate) mod sessions;
pub(crate) mod submissions;
pub(crate) mod takes;
pub(crate) mod verdicts;
pub(crate) mod versioned;
pub(crate) mod wall;
