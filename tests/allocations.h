// How often memory was asked for, for tests of what must not ask for it.
#pragma once

namespace bronvel {

/// Calls of operator new so far, in all threads. Always 0 under the sanitizers, which bring their own.
long allocations();

}  // namespace bronvel
