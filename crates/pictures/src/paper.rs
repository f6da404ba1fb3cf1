//! Drawings as pictures and as pages: SVG to PNG and to PDF, with the fonts that ship with the program.

use crate::Refusal;
use krilla::Document;
use krilla::geom::Size;
use krilla::metadata::Metadata;
use krilla::page::PageSettings;
use krilla_svg::{SurfaceExt, SvgSettings};
use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree, fontdb};
use std::sync::{Arc, LazyLock};
use ttf_parser::Face;

const SANS: &[u8] = include_bytes!("../fonts/DejaVuSans.ttf");
const SANS_BOLD: &[u8] = include_bytes!("../fonts/DejaVuSans-Bold.ttf");

/// DejaVu, free to embed and pass on (`fonts/LICENCE.txt`).
static FONTS: LazyLock<Arc<fontdb::Database>> = LazyLock::new(|| {
    let mut db = fontdb::Database::new();
    for font in [SANS, SANS_BOLD, include_bytes!("../fonts/DejaVuSansMono.ttf")] {
        db.load_font_data(font.to_vec());
    }
    db.set_sans_serif_family("DejaVu Sans");
    db.set_serif_family("DejaVu Sans");
    db.set_monospace_family("DejaVu Sans Mono");
    Arc::new(db)
});

fn tree(svg: &str) -> Result<Tree, Refusal> {
    let options = Options { fontdb: FONTS.clone(), font_family: "DejaVu Sans".into(), ..Options::default() };
    Tree::from_str(svg, &options).map_err(|e| Refusal::Damaged(format!("the drawing: {e}")))
}

/// A drawing as a PNG `scale` times its size.
///
/// # Errors
/// If the drawing is no SVG or has no size.
pub fn png_of_svg(svg: &str, scale: f32) -> Result<Vec<u8>, Refusal> {
    let tree = tree(svg)?;
    let (w, h) = (tree.size().width() * scale, tree.size().height() * scale);
    let mut map = Pixmap::new(w.ceil() as u32, h.ceil() as u32)
        .ok_or_else(|| Refusal::Damaged("the drawing has no size".into()))?;
    resvg::render(&tree, Transform::from_scale(scale, scale), &mut map.as_mut());
    map.encode_png().map_err(|e| Refusal::Damaged(format!("the drawing: {e}")))
}

/// A drawing as one page of a PDF, text kept as text; the page is as large as the drawing at 96 pixels an inch.
///
/// # Errors
/// If the drawing is no SVG or has no size.
pub fn pdf_of_svg(svg: &str) -> Result<Vec<u8>, Refusal> {
    pdf_of_pages(&[svg.to_owned()], None)
}

/// Drawings as the pages of a PDF, as [`pdf_of_svg`], with a title for whoever lists files by it.
///
/// # Errors
/// If a drawing is no SVG or has no size.
pub fn pdf_of_pages(pages: &[String], title: Option<&str>) -> Result<Vec<u8>, Refusal> {
    let wrong = |what: &str| Refusal::Damaged(format!("the drawing: {what}"));
    let mut document = Document::new();
    if let Some(t) = title {
        document.set_metadata(Metadata::new().title(t.to_owned()).language("en".to_owned()));
    }
    for svg in pages {
        let tree = tree(svg)?;
        // points of 1/72 inch
        let size = Size::from_wh(tree.size().width() * 0.75, tree.size().height() * 0.75)
            .ok_or_else(|| wrong("it has no size"))?;
        let settings = PageSettings::from_wh(size.width(), size.height()).ok_or_else(|| wrong("no page"))?;
        let mut page = document.start_page_with(settings);
        let mut surface = page.surface();
        surface.draw_svg(&tree, size, SvgSettings::default()).ok_or_else(|| wrong("it cannot be drawn"))?;
        surface.finish();
        page.finish();
    }
    document.finish().map_err(|e| wrong(&format!("{e:?}")))
}

/// Width in pixels of a line of text in the font of drawings, by the advance of its glyphs.
pub fn text_width(text: &str, size: f64, bold: bool) -> f64 {
    let Some(face) = &FACES[usize::from(bold)] else { return text.chars().count() as f64 * size * 0.6 };
    let advance = |c: char| {
        face.glyph_index(c)
            .and_then(|g| face.glyph_hor_advance(g))
            .map_or(0.6, |a| f64::from(a) / f64::from(face.units_per_em()))
    };
    text.chars().map(advance).sum::<f64>() * size
}

/// The plain and the bold face, for measuring.
static FACES: LazyLock<[Option<Face<'static>>; 2]> =
    LazyLock::new(|| [SANS, SANS_BOLD].map(|bytes| Face::parse(bytes, 0).ok()));

#[cfg(test)]
mod tests {
    use super::*;

    const SVG: &str = r##"<svg xmlns="http://www.w3.org/2000/svg" width="80" height="40" viewBox="0 0 80 40" font-family="sans-serif">
        <rect width="80" height="40" fill="#fff"/><rect x="60" width="20" height="40" fill="#f00"/><text x="4" y="28" font-size="24">key</text></svg>"##;

    #[test]
    fn a_drawing_is_a_picture_with_its_words() {
        let png = png_of_svg(SVG, 2.0).expect("a picture");
        let p = image::load_from_memory(&png).expect("a PNG").to_rgb8();
        assert_eq!(p.dimensions(), (160, 80));
        assert_eq!(p.get_pixel(150, 40).0, [255, 0, 0]);
        let dark = p.pixels().filter(|c| c.0.iter().all(|v| *v < 90)).count();
        assert!(dark > 200, "the word is drawn: {dark} dark pixels");
        assert!(png_of_svg("no drawing", 1.0).is_err());
    }

    #[test]
    fn a_page_keeps_its_size_and_its_text() {
        let pdf = pdf_of_svg(SVG).expect("a page");
        assert!(pdf.starts_with(b"%PDF-"));
        // 80 by 40 pixels at 96 an inch are 60 by 30 points (CSS Values 4, absolute lengths)
        let text = String::from_utf8_lossy(&pdf);
        assert!(text.contains("/MediaBox [0 0 60 30]") || text.contains("/MediaBox[0 0 60 30]"), "page size");
        assert!(text.contains("/Font"), "the words stay words");
    }
}
