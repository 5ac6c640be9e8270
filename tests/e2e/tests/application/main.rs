//! The application as its people meet it: each test has an installation of its own, with a real MariaDB.

mod access;
mod accessibility;
mod bad_input;
mod command_line;
mod day;
mod door;
mod first_start;
mod jobs;
mod judging;
mod kept;
mod lists;
mod live;
mod looks;
mod mains;
mod manners;
mod needle;
mod old_files;
mod omissions;
mod project;
mod recorder;
mod restored;
mod sign_in;
mod stages;
mod story;
mod two_people;
mod zone;
