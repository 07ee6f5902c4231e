// The bench's look: palette, type and the style sheet made of them.
#pragma once

#include <QApplication>
#include <QColor>
#include <QFont>
#include <QIcon>
#include <QLabel>
#include <QString>

namespace bronvel::theme {

// Ink on warm paper.
inline const QColor paper{0xF5, 0xF1, 0xE8};
inline const QColor sheet{0xFB, 0xF9, 0xF4};
inline const QColor well{0xEF, 0xE9, 0xDC};  ///< sunk fields
inline const QColor ink{0x1E, 0x2A, 0x36};
inline const QColor faint_ink{0x6B, 0x76, 0x83};
inline const QColor rule{0xD9, 0xD2, 0xC3};
inline const QColor accent{0xC2, 0x45, 0x2D};  ///< play and play head
inline const QColor chosen{0x0E, 0x6E, 0x74};
inline const QColor chosen_wash{0xDF, 0xEC, 0xEA};
inline const QColor compared{0xC0, 0x8A, 0x1E};
inline const QColor contact{0x7A, 0x35, 0x5F};  ///< forces where bodies touch
inline const QColor current_line{0xF3, 0xE6, 0xD0};

QFont words(double pixels, QFont::Weight weight = QFont::Normal);    ///< Inter
QFont numbers(double pixels, QFont::Weight weight = QFont::Normal);  ///< JetBrains Mono, for numbers and code

/// One of our own drawings, in the given ink.
QIcon icon(const QString& name, const QColor& colour = ink);

/// A label in that type and ink.
QLabel* label(const QFont& font, const QColor& colour, QWidget* parent, const QString& text = {});

/// Fonts, palette and style sheet for the whole program.
void apply(QApplication& app);

}  // namespace bronvel::theme
