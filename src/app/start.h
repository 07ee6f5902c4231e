// What must be said to Qt before the application object exists.
#pragma once

namespace bronvel {

/// Asks for OpenGL 3.3 and no multisampling: the inked edges do without, and software drawing is twice as fast.
void prepare_graphics();

}  // namespace bronvel
