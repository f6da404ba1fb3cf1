//! What light does, held against sources outside the project. The source stands beside each number; "common practice" and "from
//! memory" are said where there is none.

mod distance;
mod lenses;
mod pictures;
mod solvers;
mod sphere;
