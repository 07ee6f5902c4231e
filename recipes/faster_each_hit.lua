-- Faster at every hit, up to a limit.
dials {
  gain = { 1.1, unit = "×", from = 1, to = 2,
          tip = "speed after a hit against before" },
  limit = { 12, unit = "m/s", from = 1, to = 40,
            tip = "no faster than this" },
}

function on.touch(hit)
  local away = body.velocity
  -- Only if the hit left it moving: a body at rest
  -- has no direction to go in.
  if away:length() < 0.1 then return end
  local most = math.max(dials.limit, 0.1)
  body.velocity = (away * dials.gain):limit(most)
end
