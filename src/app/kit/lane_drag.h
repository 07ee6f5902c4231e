// Numbers that can be dragged down to become lanes.
#pragma once

#include <QString>
#include <QWidget>
#include <functional>

namespace bronvel {

/// What such a drag carries: the channel's name as text.
inline const QString lane_mime = "application/x-bronvel-channel";

/// Lets the widget be dragged. `channel` gives the channel's name when a drag begins, "" for none.
void make_lane_source(QWidget* widget, const std::function<QString()>& channel);

}  // namespace bronvel
