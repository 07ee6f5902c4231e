// Typing numbers.
#include "app/kit/number_field.h"

#include <QKeyEvent>
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
    const QString text_now = whole_ ? QString::number(value, 'f', 0) : short_number(value);
    if (text() != text_now) setText(text_now);
  }
}

void NumberField::show_none(const QString& hint) {
  has_value_ = false;
  if (!isModified()) clear();
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
  if (several_) {
    if (const auto change = entered_change(typed.toStdString(), unit_.toStdString())) {
      emit changed(*change);
      return;
    }
  }
  const auto value = entered_number(typed.toStdString(), unit_.toStdString());
  if (!value) {
    emit refused("\"" + typed + "\" is not a number" + (unit_.isEmpty() ? "" : " in " + unit_) +
                 "; sums and prefixes work: 12*3, 2.5 k" + unit_);
    setText(has_value_ ? short_number(value_) : "");
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
  } else if (event->key() == Qt::Key_Escape && isModified()) {
    setText(has_value_ ? short_number(value_) : "");
    setModified(false);
  } else {
    QLineEdit::keyPressEvent(event);
  }
}

void NumberField::focusOutEvent(QFocusEvent* event) {
  commit();
  QLineEdit::focusOutEvent(event);
}

}  // namespace bronvel
