-- Hangs in the air for a moment, then is let go.
dials {
  drop = { 4, unit = "m", from = 0.5, to = 8,
           tip = "height that it falls from" },
  wait = { 0.6, unit = "s", from = 0, to = 3 },
}

local hanging = true

function on.play()
  local at = body.position
  body:place(vec(at.x, dials.drop, at.z))
  after(dials.wait, function() hanging = false end)
end

function on.tick()
  if hanging then
    body:halt() body:force(vec(0, body.weight, 0))
  end
end

function on.touch(hit)
  if hit.speed > 1 then puff(hit.point, 0.5) end
end
