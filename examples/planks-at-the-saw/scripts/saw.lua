-- Pushes the beam along the bench and cuts a length
-- off whenever one stands past the saw.
dials {
  speed = { 0.6, unit = "m/s", from = 0.1, to = 2 },
  length = { 0.5, unit = "m", from = 0.2, to = 1.2,
             tip = "of what is cut off" },
}

local saw = scene:find("saw").position.x
local ends = 1.8 -- half the beam, as it was
local cuts = 0

function on.tick()
  if cuts >= 6 then return end
  if body.velocity.x < dials.speed then
    body:force(vec(1200, 0, 0))
  end
  local front = body:to_scene(vec(ends, 0, 0)).x
  if front > saw + dials.length then
    local cut = vec(saw, body.position.y, 0)
    local off = body:slice(cut, vec(1, 0, 0))
    off:impulse(vec(off.mass * 1.2, 0, 0))
    local now = vec(saw, body.position.y, 0)
    ends = body:to_local(now).x
    cuts = cuts + 1
    print("cut", cuts, "of", off.mass, "kg")
    puff(vec(saw, 1, 0), 0.25)
  end
end
