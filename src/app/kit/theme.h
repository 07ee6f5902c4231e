// The bench's look: palette, type and the style sheet made of them.
#pragma once

#include <QApplication>
#include <QColor>
#include <QFont>
#include <QIcon>
#include <QLabel>
#include <QString>
#include <utility>
#include <vector>

namespace bronvel::theme {

// The colours of the sheet that `apply` took: dark ink on warm paper, or light ink on a dark one. They are taken before
// the window is made, which keeps them.
inline QColor paper, sheet;
inline QColor well;  ///< sunk fields
inline QColor ink, faint_ink;
inline QColor rule;
inline QColor grid;    ///< of lanes
inline QColor accent;  ///< play and play head
inline QColor chosen;
inline QColor chosen_wash;
inline QColor on_chosen;  ///< words on `chosen`
inline QColor compared;
inline QColor contact;  ///< forces where bodies touch
inline QColor current_line;
inline QColor notice;  ///< under what went wrong
inline QColor marked;  ///< a stretch of time that is marked
inline QColor dust;
inline QColor text_value;          ///< texts in code
inline QColor ground, far_ground;  ///< of the stage
inline QColor ground_line, ground_bold_line;
inline QColor edge;  ///< of bodies

/// The sheet's colour, letting that much of what is under it through: 255 nothing.
QColor veil(int opacity);

/// Of what is written and what it is written on: pairs that have to be told apart.
std::vector<std::pair<QColor, QColor>> written_pairs();

/// How much larger than usual all that is written is.
inline double type_scale = 1;

/// As the desktop is, or one of the two.
enum class Sheet { desktop, light, dark };

QFont words(double pixels, QFont::Weight weight = QFont::Normal);    ///< Inter
QFont numbers(double pixels, QFont::Weight weight = QFont::Normal);  ///< JetBrains Mono, for numbers and code

/// One of our own drawings, in the given ink.
QIcon icon(const QString& name, const QColor& colour = ink);

/// A label in that type and ink.
QLabel* label(const QFont& font, const QColor& colour, QWidget* parent, const QString& text = {});

/// Fonts, palette and style sheet for the whole program. Windows made before keep some of the colours they had.
void apply(QApplication& app, Sheet wanted = Sheet::light);

}  // namespace bronvel::theme
