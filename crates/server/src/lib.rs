//! placeholder while dependencies build
