// Everything that can be done is found by its words, with its key, and done from the list.
#include <QTreeWidget>
#include <catch2/catch.hpp>

#include "app/window.h"

using namespace bronvel;

namespace {

struct Found {
  QString name, about, key;
};

std::vector<Found> list_for(Window& w, const QString& words) {
  QTest::keyClick(&w.bench, Qt::Key_F1);
  auto* field = w.find<QLineEdit>("command_words");
  QTest::keyClicks(field, words);
  std::vector<Found> found;
  auto* list = w.find<QTreeWidget>("commands");
  for (int i = 0; i < list->topLevelItemCount(); ++i) {
    const QTreeWidgetItem* item = list->topLevelItem(i);
    found.push_back({item->text(0), item->text(1), item->text(2)});
  }
  return found;
}

void press(Window& w, Qt::Key key) {
  QTest::keyClick(w.find<QLineEdit>("command_words"), key);
}

}  // namespace

TEST_CASE("a command is found by its words, with its key, and done; the keys go back to where they were") {
  Window w("cork-hoppers");
  w.bench.stage()->setFocus();
  auto found = list_for(w, "fold deck");
  REQUIRE(found.size() >= 1);
  CHECK(found[0].name == "Fold the deck");
  CHECK(found[0].key == "F10");
  press(w, Qt::Key_Return);
  CHECK_FALSE(w.bench.deck()->isVisible());
  CHECK(w.bench.stage()->hasFocus());
  list_for(w, "page surfaces");
  press(w, Qt::Key_Return);
  CHECK(w.bench.deck()->isVisible());

  found = list_for(w, "play");
  const bool plays =
      std::any_of(found.begin(), found.end(), [](const Found& f) { return f.name == "Play" && f.key == "F5"; });
  CHECK(plays);
  press(w, Qt::Key_Escape);
  CHECK(w.bench.stage()->hasFocus());
  CHECK_FALSE(w.find<QWidget>("command_list")->isVisible());

  // What menus hold too: a ready behaviour, with what it does.
  w.bench.session().choose("cork_1");
  found = list_for(w, "serve");
  REQUIRE_FALSE(found.empty());
  CHECK(found[0].about.size() > 10);
  const auto scripts = w.bench.session().scene().find("cork_1")->scripts.size();
  press(w, Qt::Key_Return);
  CHECK(w.bench.session().scene().find("cork_1")->scripts.size() == scripts + 1);

  CHECK(list_for(w, "no such thing as this").empty());
  press(w, Qt::Key_Return);
  press(w, Qt::Key_Escape);
  CHECK(list_for(w, "").size() > 40);
  press(w, Qt::Key_Down);
  press(w, Qt::Key_Down);
  auto* list = w.find<QTreeWidget>("commands");
  CHECK(list->indexOfTopLevelItem(list->currentItem()) == 2);
  press(w, Qt::Key_Escape);
}
