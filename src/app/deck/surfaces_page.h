// The page of surfaces: what each gives, what each pair gives together and by which rule, and a drop of it.
#pragma once

#include <QWidget>
#include <map>

#include "app/session/session.h"

class QTreeWidget;
class QTableWidget;

namespace bronvel {

class PairDrop;

class SurfacesPage : public QWidget {
  Q_OBJECT

 public:
  explicit SurfacesPage(Session& session, QWidget* parent = nullptr);
  PairDrop* drop() { return drop_; }
  /// Marks one number of a surface: "restitution", "static_friction" …
  void point_at(const std::string& surface, const std::string& number);

 private:
  void take_over();
  void show_pair();
  void set(const std::string& surface, int column, const QString& text);
  void hear_marked();
  void add();
  void remove();

  Session& session_;
  QTreeWidget* list_ = nullptr;
  QTableWidget* pairs_ = nullptr;
  PairDrop* drop_ = nullptr;
  bool filling_ = false;
  std::map<std::string, SceneSurface> shown_;
  std::uint64_t strikes_ = 0;  // that were asked to be heard
  std::string floor_, body_;
};

}  // namespace bronvel
