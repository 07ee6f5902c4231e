// The card of a body that play made: a copy of another, or a part of one that broke.
#include <QLabel>

#include "app/card/card.h"
#include "app/card/property_rows.h"
#include "app/kit/theme.h"
#include "geometry/base/error.h"

namespace bronvel {

void Card::add_made_in_play(const Body& body) {
  add_head(QString::fromStdString(body.name), "made in play · " + QString::fromStdString(shape_word(body.shape)));
  name_->setReadOnly(true);
  add_now();
  add_acting();
  rows_->add_question("What is it like?");
  for (const char* name : {"position", "orientation", "mass", "gravity_factor", "restitution", "friction",
                           "linear_damping", "angular_damping"}) {
    const Property& property = *find_property(name);
    RowSource source;
    source.info = property;
    source.values = [this, &property] { return std::vector<Value>{session_.value(session_.chosen(), property)}; };
    if (property.kind == PropertyKind::optional_number) source.hint = [] { return QString("surface's"); };
    source.lane = [this, &property] { return QString::fromStdString(session_.chosen() + "." + property.name); };
    source.change = [this, &property](const std::function<Value(const Value&)>& make) {
      const std::string chosen = session_.chosen();
      if (!session_.live_play())
        throw Error(chosen, "was made in play and is looked at in a take", "play on to change it");
      session_.set_value(chosen, property, make(session_.value(chosen, property)));
    };
    rows_->add(source);
  }
  auto* note = theme::label(theme::words(11), theme::faint_ink, rows_->inside(),
                            "It is gone when play stops, and its values with it: what stays is set on the body that it "
                            "came from.");
  note->setObjectName("made_in_play");
  note->setWordWrap(true);
  rows_->add_wide(note);
}

}  // namespace bronvel
