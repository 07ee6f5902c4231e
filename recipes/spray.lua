-- Spray of copies, each lighter than the body
-- itself, thrown upwards in all directions while the
-- action is held.
-- needs action: spray (space)
dials {
  rate = { 8, unit = "1/s", from = 1, to = 30,
           tip = "copies a second" },
  speed = { 5, unit = "m/s", from = 0, to = 15,
            tip = "how fast they leave" },
  share = { 0.3, from = 0.05, to = 1,
         tip = "mass of a copy against the body's" },
  life = { 4, unit = "s", from = 0.5, to = 20,
           tip = "how long a copy stays" },
  soften = { 0, from = 0, to = 1,
     tip = "share of a copy's weight held up" },
  by = { action = "spray", tip = "what it answers to" },
}

local owed = 0

function on.tick(dt)
  if not dials.by or not held(dials.by) then return end
  owed = owed + dials.rate * dt
  while owed >= 1 do
    owed = owed - 1
    local angle = random(0, 2 * math.pi)
    local x, z = math.cos(angle), math.sin(angle)
    local out = vec(x, 0, z)
    local mouth = body.position + vec(0, 1, 0)
    local way = out + vec(0, 2, 0)
    local copy = scene:stamp(body, {
      position = mouth + out * 0.3,
      velocity = way:unit() * dials.speed,
      mass = body.mass * dials.share,
      kind = "dynamic",
      gravity_factor = 1 - dials.soften,
      scripts = false,
    })
    after(dials.life, function()
      if copy.alive then copy:remove() end
    end)
  end
end
