//! The pure modules of the front end: units, marks under the hand, drawing, band, the document that saves itself.

use anyhow::Result;
use interface_tests::root;
use std::process::Command;

#[test]
fn the_pure_modules_of_the_front_end_do_what_they_say() -> Result<()> {
    let out = Command::new("npm").args(["run", "--silent", "test"]).current_dir(root().join("web")).output()?;
    let said = format!("{}{}", String::from_utf8_lossy(&out.stdout), String::from_utf8_lossy(&out.stderr));
    assert!(out.status.success(), "{said}");
    // a run that finds no test has not passed
    let passed = said.lines().filter(|l| l.contains("Tests")).any(|l| l.contains("passed"));
    assert!(passed, "{said}");
    Ok(())
}
