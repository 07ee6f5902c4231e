// Rows of a card: a name, a value that can be changed, its unit. For one thing or several at once.
#pragma once

#include <QGridLayout>
#include <QLabel>
#include <QWidget>
#include <functional>
#include <optional>
#include <vector>

#include "app/session/session.h"
#include "scene/properties/number_entry.h"

namespace bronvel {

/// Where a row's value comes from and goes to.
struct RowSource {
  PropertyInfo info;
  double scale = 1;                            ///< what is shown is the value times this: degrees for radians
  std::function<std::vector<Value>()> values;  ///< of each that is chosen, now
  std::function<Value()> before;               ///< in the document, to tell what play changed; may be empty
  std::function<QString()> hint;               ///< shown where no value is set; may be empty
  /// Sets each to what the function makes of it. May throw.
  std::function<void(const std::function<Value(const Value&)>&)> change;
  std::function<QString()> lane;         ///< the channel that its name is when it is dragged down; may be empty
  std::function<bool()> from_next_play;  ///< whether what is set now counts from the next play only; may be empty
  std::vector<QString> choices;          ///< of a text, if it is one of these
};

/// Rows in a grid of four columns: name, note, field, unit.
class PropertyRows : public QObject {
  Q_OBJECT

 public:
  PropertyRows(Session& session, QWidget* parent);
  ~PropertyRows() override;

  QWidget* inside() { return inside_; }
  QGridLayout* grid() { return grid_; }
  /// A question that the rows under it answer. With `more`, a word that shows and hides rows.
  QLabel* add_question(const QString& question, const std::function<void()>& more = {}, bool open = false);
  void add(const RowSource& source);
  QLabel* add_reading(const QString& name, const QString& unit, const QString& tip);
  void add_wide(QWidget* widget);
  /// Takes over the values as they are now.
  void renew();

 private:
  struct Row;
  void add_number(Row& row);
  void add_three(Row& row, const std::string& object, const QString& tip,
                 const std::function<Value(const Value&, int, const NumberChange&)>& change_one);
  void add_vector(Row& row);
  void add_flag(Row& row);
  void add_choice(Row& row, const std::vector<QString>& words);
  void add_rotation(Row& row);
  void set(const Row& row, const std::function<Value(const Value&)>& make);
  QLabel* name_label(Row& row);

  Session& session_;
  QWidget* inside_ = nullptr;
  QGridLayout* grid_ = nullptr;
  std::vector<std::unique_ptr<Row>> rows_;
  int next_ = 0;
};

}  // namespace bronvel
