// Palette, type and style sheet.
#include "app/kit/theme.h"

#include <QFile>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <cmath>

// The drawings sit in a static library: Qt has to be told to take them in, from outside any namespace.
static void take_in_drawings() {
  Q_INIT_RESOURCE(assets);
}

namespace bronvel::theme {

QFont words(double pixels, QFont::Weight weight) {
  QFont font("Inter");
  font.setPixelSize(static_cast<int>(std::lround(pixels * type_scale)));
  font.setWeight(weight);
  return font;
}

QFont numbers(double pixels, QFont::Weight weight) {
  QFont font("JetBrains Mono");
  font.setStyleHint(QFont::Monospace);
  font.setPixelSize(static_cast<int>(std::lround(pixels * type_scale)));
  font.setWeight(weight);
  return font;
}

QIcon icon(const QString& name, const QColor& colour) {
  QFile file(":/" + name + ".svg");
  if (!file.open(QIODevice::ReadOnly)) return {};
  const QByteArray drawing = file.readAll().replace("currentColor", colour.name().toUtf8());
  QSvgRenderer renderer(drawing);
  QIcon made;
  for (const int size : {20, 40}) {
    QPixmap pixmap(size, size);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    renderer.render(&painter);
    made.addPixmap(pixmap);
  }
  return made;
}

QLabel* label(const QFont& font, const QColor& colour, QWidget* parent, const QString& text) {
  auto* made = new QLabel(text, parent);
  made->setFont(font);
  made->setStyleSheet("color: " + colour.name());
  return made;
}

namespace {

struct Colour {
  QColor* which;
  const char *light, *dark;
};
constexpr Colour colours[] = {{&paper, "#F5F1E8", "#1B2128"},       {&sheet, "#FBF9F4", "#222A32"},
                              {&well, "#EFE9DC", "#161B21"},        {&ink, "#1E2A36", "#E6E1D6"},
                              {&faint_ink, "#5A6470", "#A3ACB5"},   {&rule, "#D9D2C3", "#3A444E"},
                              {&grid, "#E4DDCE", "#313A43"},        {&accent, "#B63D26", "#EE7F63"},
                              {&chosen, "#0E6E74", "#58BDC2"},      {&chosen_wash, "#DFECEA", "#1E3A3D"},
                              {&on_chosen, "#FBF9F4", "#161B21"},   {&compared, "#8A5F0C", "#DDA94A"},
                              {&contact, "#7A355F", "#D79AC1"},     {&current_line, "#F3E6D0", "#2C333B"},
                              {&notice, "#FAE9E2", "#3A2723"},      {&marked, "#E8DCC0", "#4A4636"},
                              {&dust, "#8A7D66", "#B7A98C"},        {&text_value, "#8A5A14", "#DDA94A"},
                              {&ground, "#E9E2D3", "#2B323A"},      {&far_ground, "#F1EBDF", "#1F262D"},
                              {&ground_line, "#BEB6A4", "#414B55"}, {&ground_bold_line, "#9C968A", "#56616C"},
                              {&edge, "#1E2A36", "#0C1014"}};

}  // namespace

QColor veil(int opacity) {
  QColor colour = sheet;
  colour.setAlpha(opacity);
  return colour;
}

std::vector<std::pair<QColor, QColor>> written_pairs() {
  std::vector<std::pair<QColor, QColor>> pairs{{on_chosen, chosen}};
  for (const QColor& writing : {ink, faint_ink, accent, chosen, compared, contact})
    for (const QColor& under : {paper, sheet, well, chosen_wash, notice}) pairs.emplace_back(writing, under);
  for (const QColor& writing : {ink, faint_ink, text_value, chosen}) pairs.emplace_back(writing, current_line);
  for (const QColor& under : {ground, far_ground}) pairs.emplace_back(faint_ink, under);
  return pairs;
}

void apply(QApplication& app, Sheet wanted) {
  take_in_drawings();
  // What the desktop had before it was painted over here.
  static const bool dark_desktop = QGuiApplication::palette().color(QPalette::Window).lightness() < 128;
  const bool dark = wanted == Sheet::dark || (wanted == Sheet::desktop && dark_desktop);
  for (const Colour& colour : colours) *colour.which = QColor(dark ? colour.dark : colour.light);
  app.setStyle(QStyleFactory::create("Fusion"));
  app.setFont(words(12));
  QPalette palette;
  palette.setColor(QPalette::Window, paper);
  palette.setColor(QPalette::WindowText, ink);
  palette.setColor(QPalette::Base, sheet);
  palette.setColor(QPalette::AlternateBase, paper);
  palette.setColor(QPalette::Text, ink);
  palette.setColor(QPalette::Button, sheet);
  palette.setColor(QPalette::ButtonText, ink);
  palette.setColor(QPalette::Highlight, chosen);
  palette.setColor(QPalette::Link, chosen);
  palette.setColor(QPalette::HighlightedText, on_chosen);
  palette.setColor(QPalette::ToolTipBase, sheet);
  palette.setColor(QPalette::ToolTipText, ink);
  palette.setColor(QPalette::PlaceholderText, faint_ink);
  app.setPalette(palette);
  QString sheet_text = R"(
    QToolTip { background: @sheet; color: @ink; border: 1px solid @rule; padding: 5px 7px; }
    QMenu { background: @sheet; border: 1px solid @rule; padding: 5px; }
    QMenu::item { padding: 5px 22px 5px 12px; border-radius: 4px; }
    QMenu::item:selected { background: @wash; color: @chosen; }
    QMenu::item:disabled { color: @faint; }
    QMenu::separator { height: 1px; background: @rule; margin: 4px 8px; }
    QSlider::groove:horizontal { height: 1px; background: @ink; margin: 0 4px; }
    QSlider::handle:horizontal { width: 8px; height: 15px; margin: -7px -4px; border-radius: 2px; background: @accent; }
    QSlider::handle:horizontal:disabled { background: @rule; }
    QScrollBar:vertical { background: transparent; width: 9px; margin: 1px; }
    QScrollBar::handle:vertical { background: @rule; border-radius: 3px; min-height: 26px; }
    QScrollBar::handle:vertical:hover { background: @faint; }
    QScrollBar:horizontal { background: transparent; height: 9px; margin: 1px; }
    QScrollBar::handle:horizontal { background: @rule; border-radius: 3px; min-width: 26px; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QSplitter::handle { background: @rule; }
    QToolButton { border: none; background: transparent; border-radius: 6px; padding: 3px; color: @ink; }
    QToolButton:hover { background: @well; }
    QToolButton:checked { background: @wash; color: @chosen; }
    QToolButton:disabled { color: @faint; }
    QToolButton::menu-indicator { image: none; }
    QToolButton:focus, QPushButton:focus { outline: none; border: 1px solid @chosen; }
    QPushButton { background: @sheet; border: 1px solid @rule; border-radius: 6px; padding: 5px 14px; color: @ink; font-weight: 500; }
    QPushButton:hover { background: @well; }
    QPushButton[main="true"] { background: @chosen; color: @onchosen; border-color: @chosen; }
    QPushButton[main="true"]:hover { border-color: @ink; }
    QLineEdit { background: @well; border: 1px solid @rule; border-radius: 5px; padding: 2px 6px; selection-background-color: @chosen; selection-color: @onchosen; }
    QLineEdit:focus { border-color: @chosen; background: @sheet; }
    QLineEdit:read-only { background: transparent; border-color: transparent; }
    QComboBox { background: @well; border: 1px solid @rule; border-radius: 5px; padding: 2px 8px; }
    QComboBox:focus, QComboBox:hover { border-color: @chosen; }
    QComboBox::drop-down { border: none; width: 20px; }
    QComboBox::down-arrow { image: url(:/chevron.svg); width: 12px; height: 12px; }
    QComboBox:disabled { color: @faint; }
    QComboBox QAbstractItemView { background: @sheet; border: 1px solid @rule; selection-background-color: @wash; selection-color: @chosen; outline: none; }
    QCheckBox { spacing: 7px; }
    QListView { background: transparent; border: none; outline: none; }
  )";
  const std::pair<const char*, QColor> names[] = {
      {"@paper", paper}, {"@sheet", sheet},   {"@well", well},        {"@ink", ink},       {"@faint", faint_ink},
      {"@rule", rule},   {"@accent", accent}, {"@wash", chosen_wash}, {"@chosen", chosen}, {"@onchosen", on_chosen}};
  for (const auto& [name, colour] : names) sheet_text.replace(name, colour.name());
  app.setStyleSheet(sheet_text);
  app.setWindowIcon(QIcon(":/bronvel.svg"));
}

}  // namespace bronvel::theme
