// Typing numbers.
#include "app/kit/number_field.h"

#include <QKeyEvent>
#include <QStyleOptionFrame>
#include <cmath>

#include "app/kit/theme.h"

namespace bronvel {

QString short_number(double value) {
  const double size = std::abs(value);
  if (size != 0 && (size < 1e-3 || size >= 1e6)) return QString::number(value, 'g', 4);
  const int decimals = size >= 1000 ? 0 : size >= 100 ? 1 : size >= 10 ? 2 : 3;
  QString text = QString::number(value, 'f', decimals);
  if (text.contains('.')) {
    while (text.endsWith('0') && text.section('.', 1).size() > 1) text.chop(1);
  }
  return text;
}

namespace {

// As 2.4e-4.
QString with_exponent(double value, int digits) {
  return QString::number(value, 'e', digits).replace("e-0", "e-").replace("e+0", "e").replace("e+", "e");
}

}  // namespace

QString fitting_number(double value, const QFontMetrics& font, int width) {
  QString text = short_number(value);
  const auto fits = [&] { return font.horizontalAdvance(text) <= width; };
  if (fits()) return text;
  constexpr double most_off = 0.1;  // as a share; rather an exponent than more
  const auto true_enough = [&] { return std::abs(text.toDouble() - value) <= most_off * std::abs(value); };
  for (int decimals = 3; decimals >= 0; --decimals) {
    text = QString::number(value, 'f', decimals);
    if (fits() && true_enough()) return text;
  }
  for (int digits = 3; digits >= 0; --digits) {
    text = with_exponent(value, digits);
    if (fits()) return text;
  }
  return text;
}

QString lane_number(double value, double span) {
  if (!std::isfinite(value)) return "—";
  if (std::abs(value) < 1e-9 * std::max(1.0, std::abs(span))) value = 0;
  const double own = std::abs(value), size = std::max(own, std::abs(span));
  QString text;
  if (own >= 1e6 || (own > 0 && size < 1e-3)) {
    text = with_exponent(value, value < 0 ? 1 : 2);
  } else {
    const int whole = size >= 1 ? static_cast<int>(std::floor(std::log10(size))) + 1 : 1;
    text = QString::number(value, 'f', size > 0 && size < 1e-3 ? 0 : std::clamp(4 - whole, 0, 4));
  }
  return text.replace('-', "−");
}

NumberField::NumberField(const QString& unit, QWidget* parent) : QLineEdit(parent), unit_(unit) {
  setFont(theme::numbers(12));
  setAlignment(Qt::AlignRight);
  setMaxLength(64);
  setContextMenuPolicy(Qt::NoContextMenu);
  connect(this, &QLineEdit::returnPressed, this, [this] {
    commit();
    selectAll();
  });
}

void NumberField::show_value(double value) {
  value_ = value;
  has_value_ = true;
  if (!isModified()) {
    if (const QString now = shown(); text() != now) setText(now);
  }
}

QString NumberField::shown() const {
  if (whole_) return QString::number(value_, 'f', 0);
  QStyleOptionFrame frame;
  initStyleOption(&frame);
  constexpr int left_free = 4;  // px, by the toolkit
  const int room = style()->subElementRect(QStyle::SE_LineEditContents, &frame, this).width() - left_free;
  return fitting_number(value_, fontMetrics(), room);
}

void NumberField::resizeEvent(QResizeEvent* event) {
  QLineEdit::resizeEvent(event);
  if (has_value_) show_value(value_);
}

void NumberField::show_none(const QString& hint) {
  has_value_ = false;
  // Not clear(): that counts as typed, and what is typed is never shown over.
  if (!isModified()) setText({});
  setPlaceholderText(hint);
}

void NumberField::commit() {
  if (!isModified()) return;
  setModified(false);
  const QString typed = text().trimmed();
  if (typed.isEmpty()) {
    emit cleared();
    return;
  }
  const EntryNames names = names_ ? names_() : EntryNames{};
  if (several_) {
    if (const auto change = entered_change(typed.toStdString(), unit_.toStdString(), names)) {
      emit changed(*change);
      return;
    }
  }
  const auto value = entered_number(typed.toStdString(), unit_.toStdString(), names);
  if (!value) {
    emit refused("\"" + typed + "\" is not a number" + (unit_.isEmpty() ? "" : " in " + unit_) +
                 "; sums and prefixes work: 12*3, 2.5 k" + unit_);
    setText(has_value_ ? shown() : "");
    return;
  }
  emit entered(*value);
}

void NumberField::nudge(double steps) {
  if (!has_value_ || isReadOnly()) return;
  const double size = std::max(std::abs(value_), 1e-3);
  const double step = std::pow(10.0, std::floor(std::log10(size)) - 1);
  setModified(false);
  emit entered(std::round(value_ / step + steps) * step);
}

void NumberField::keyPressEvent(QKeyEvent* event) {
  const double far = (event->modifiers() & Qt::ShiftModifier) != 0 ? 10 : 1;
  if (event->key() == Qt::Key_Up) {
    nudge(far);
  } else if (event->key() == Qt::Key_Down) {
    nudge(-far);
  } else if (event->key() == Qt::Key_Escape) {
    if (isModified()) setText(has_value_ ? shown() : "");
    setModified(false);
    clearFocus();
  } else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    QLineEdit::keyPressEvent(event);
    clearFocus();
  } else {
    QLineEdit::keyPressEvent(event);
  }
}

// Undo is the document's until something is typed.
bool NumberField::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride && !isModified()) {
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo)) {
      event->ignore();
      return true;
    }
  }
  return QLineEdit::event(event);
}

void NumberField::focusOutEvent(QFocusEvent* event) {
  commit();
  QLineEdit::focusOutEvent(event);
}

}  // namespace bronvel
