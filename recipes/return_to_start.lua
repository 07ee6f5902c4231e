-- Back to where it started, some seconds after it
-- was let go or struck. Taking it up again calls the
-- return off.
dials {
  wait = { 3, unit = "s", from = 0, to = 10,
    tip = "from drop or blow to the return" },
  blow = { 1, unit = "m/s", from = 0, to = 10,
       tip = "closing speed that counts as a blow" },
  who = { tag = "", tip = "whose blows count; "
       .. "none named: of all that is not static" },
}

local home, facing = body.position, body.orientation
local pending -- the timer, while it waits

local function come_back()
  pending = nil
  body:halt()
  body:place(home, facing)
end

local function start_waiting()
  if pending then pending:cancel() end
  pending = after(dials.wait, come_back)
end

local function counts(other)
  if dials.who then return other:has(dials.who) end
  return other.kind ~= "static"
end

function on.drop() start_waiting() end

function on.touch(hit)
  if hit.speed > dials.blow and counts(hit.other) then
    start_waiting()
  end
end

function on.grab()
  -- Without this the timer would pull it out of the
  -- hand.
  if pending then pending:cancel() end
  pending = nil
end
