// A field for a number with a unit: takes sums and prefixes, steps with the arrow keys and the wheel.
#pragma once

#include <QLineEdit>
#include <QString>
#include <functional>

#include "scene/properties/number_entry.h"

namespace bronvel {

/// Shows four significant digits of a number of full precision.
QString short_number(double value);

/// As short_number, but with fewer digits where it would not fit the width: its sign and its size are never cut off.
QString fitting_number(double value, const QFontMetrics& font, int width);

/// Digits enough to tell from one another what lies `span` apart, in no more than the seven signs that the scale beside
/// a lane has room for.
QString lane_number(double value, double span);

class NumberField : public QLineEdit {
  Q_OBJECT

 public:
  explicit NumberField(const QString& unit, QWidget* parent = nullptr);

  /// Shows the value, unless the user is typing.
  void show_value(double value);
  /// Shows a hint such as "surface" instead of a value.
  void show_none(const QString& hint);
  /// Stands for several values: "×1.5" and "+2" change each of them, and are told by `changed`.
  void set_several(bool several) { several_ = several; }
  /// Names that may be typed for numbers, asked for when something was typed: "0.9*weight".
  void set_names(const std::function<EntryNames()>& names) { names_ = names; }
  void set_whole(bool whole) { whole_ = whole; }  ///< shown without a decimal point

 signals:
  void entered(double value);
  void changed(const NumberChange& change);  ///< of several values; also when one number is for all
  void cleared();                            ///< the field was emptied
  void refused(const QString& why);

 protected:
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void commit();
  void nudge(double steps);
  QString shown() const;  ///< the value, as it fits

  QString unit_;
  std::function<EntryNames()> names_;
  double value_ = 0;
  bool has_value_ = false;
  bool several_ = false;
  bool whole_ = false;
};

}  // namespace bronvel
