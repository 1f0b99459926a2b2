//! Makes sure that the folder of the built page exists, so that a clone builds without Node.js.

fn main() {
    let page = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/dist");
    if let Err(error) = std::fs::create_dir_all(&page) {
        println!("cargo::warning=cannot make {}: {error}", page.display());
    }
    println!("cargo::rerun-if-changed=../../web/dist");
}
