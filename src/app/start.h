// What must be said to Qt before the application object exists.
#pragma once

#include "app/kit/theme.h"

namespace bronvel {

/// Asks for OpenGL 3.3 and no multisampling: the inked edges do without, and software drawing is twice as fast.
void prepare_graphics();

/// As it was chosen, from one session to the next.
theme::Sheet chosen_sheet();
void choose_sheet(theme::Sheet sheet);
double chosen_type();  ///< how much larger than usual, 1 to 1.3
void choose_type(double scale);

}  // namespace bronvel
