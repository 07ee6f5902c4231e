// How causes look wherever they are shown: each with a letter and a colour, never by colour alone.
#pragma once

#include <QColor>
#include <QString>

#include "lab/why/booked.h"

namespace bronvel {

QString cause_letter(const NamedCause& cause);
QColor cause_colour(const NamedCause& cause);

}  // namespace bronvel
