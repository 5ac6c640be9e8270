//! Stories.
