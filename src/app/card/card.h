// The card: what is chosen, with everything that can be set of it, and live readings, in a place of its own.
#pragma once

#include <QFrame>
#include <QLabel>
#include <functional>
#include <set>

#include "app/card/property_rows.h"
#include "app/session/session.h"
#include "lab/why/booked.h"

class QLineEdit;
class QScrollArea;
class QVBoxLayout;

namespace bronvel {

class CauseRow;

class Card : public QFrame {
  Q_OBJECT

 public:
  explicit Card(Session& session, QWidget* parent = nullptr);
  bool has_content() const { return has_content_; }
  void point_at(const QString& property);  ///< puts the keyboard there, unfolding what it is in
  /// Puts the keyboard into the first size, with its text selected: for exact numbers right after landing.
  void begin_with_sizes();

 signals:
  void mesh_fit_asked();                             ///< other shapes for the chosen body's model
  void line_asked(const QString& script, int line);  ///< is to be seen on the desk
  void cut_asked();                                  ///< a plane to break along is to be drawn on the stage

 private:
  void rebuild();
  void show_chosen();  ///< with the rows that are there, if they will do
  void renew();
  void show_readings();
  void show_kind(MotionKind kind);
  void add_head(const QString& name, const QString& what);
  void add_bodies();
  void add_now();
  void add_acting();
  void show_acting();
  void go_to_cause(const NamedCause& cause);
  QLabel* add_lane_reading(const char* name, const char* unit, const char* channel, const QString& tip);
  void add_body_head();
  void add_made_in_play(const Body& body);
  void add_shape();
  void add_body_property(const Property& property);
  void add_pieces();
  void show_pieces();
  void add_ties();
  void add_stamp();
  void add_giving();
  void add_joint();
  std::vector<std::string> axis_freedoms(const SceneJoint& joint) const;  ///< none unless it has six axes
  void add_axes();
  void add_setting(RowSource source, const SettingPlace& place);
  void add_zone();
  void add_path();
  void rename(const QString& name);
  void attempt(const std::function<void()>& change);
  std::string structure() const;

  Session& session_;
  QScrollArea* scroll_ = nullptr;
  QLineEdit* name_ = nullptr;
  QLabel *kind_ = nullptr, *nothing_ = nullptr;
  QWidget* head_ = nullptr;
  QVBoxLayout* column_ = nullptr;
  PropertyRows* rows_ = nullptr;
  bool has_content_ = false;
  std::string built_for_;       // structure of what the rows were made for
  std::string shown_;           // the thing they are of
  std::set<std::string> more_;  // groups that show all they have
  QLabel *speed_ = nullptr, *height_ = nullptr, *energy_ = nullptr, *weight_ = nullptr, *place_ = nullptr,
         *state_ = nullptr, *pieces_ = nullptr;
  QLabel* reason_ = nullptr;                                       // of what acts on it
  std::vector<CauseRow*> causes_;                                  // the rows under it
  QLabel* where_ = nullptr;                                        // the question that its place answers
  QLabel *holds_ = nullptr, *travel_ = nullptr, *rate_ = nullptr;  // of a joint
};

}  // namespace bronvel
