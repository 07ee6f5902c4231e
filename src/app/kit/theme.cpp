// Palette, type and style sheet.
#include "app/kit/theme.h"

#include <QFile>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>

// The drawings sit in a static library: Qt has to be told to take them in, from outside any namespace.
static void take_in_drawings() {
  Q_INIT_RESOURCE(assets);
}

namespace bronvel::theme {

QFont words(double pixels, QFont::Weight weight) {
  QFont font("Inter");
  font.setPixelSize(static_cast<int>(pixels));
  font.setWeight(weight);
  return font;
}

QFont numbers(double pixels, QFont::Weight weight) {
  QFont font("JetBrains Mono");
  font.setStyleHint(QFont::Monospace);
  font.setPixelSize(static_cast<int>(pixels));
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

void apply(QApplication& app) {
  take_in_drawings();
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
  palette.setColor(QPalette::HighlightedText, sheet);
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
    QScrollBar::handle:vertical:hover { background: #C3BAA6; }
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
    QPushButton[main="true"] { background: @chosen; color: @sheet; border-color: @chosen; }
    QPushButton[main="true"]:hover { background: #0B5A5F; }
    QLineEdit { background: @well; border: 1px solid @rule; border-radius: 5px; padding: 2px 6px; selection-background-color: @chosen; }
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
  const std::pair<const char*, QColor> names[] = {{"@paper", paper},   {"@sheet", sheet},      {"@well", well},
                                                  {"@ink", ink},       {"@faint", faint_ink},  {"@rule", rule},
                                                  {"@accent", accent}, {"@wash", chosen_wash}, {"@chosen", chosen}};
  for (const auto& [name, colour] : names) sheet_text.replace(name, colour.name());
  app.setStyleSheet(sheet_text);
  app.setWindowIcon(QIcon(":/bronvel.svg"));
}

}  // namespace bronvel::theme
