//! Reading the record.
