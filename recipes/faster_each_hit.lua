-- Faster at every hit, up to a limit: than it came,
-- whatever the bounce took.
dials {
  gain = { 1.1, unit = "×", from = 1, to = 2,
          tip = "speed after a hit against before" },
  limit = { 12, unit = "m/s", from = 1, to = 40,
            tip = "no faster than this" },
  who = { tag = "", tip = "whose hits count; "
       .. "none named: of all that is not static" },
}

local came = body.velocity -- before the hit

function on.tick() came = body.velocity end

local function counts(other)
  if dials.who then return other:has(dials.who) end
  return other.kind ~= "static"
end

function on.touch(hit)
  if not counts(hit.other) then return end
  local away = body.velocity
  -- Only if the hit left it moving: a body at rest
  -- has no direction to go in.
  if away:length() < 0.1 then return end
  local speed = math.max(came:length(), away:length())
  body.velocity = away:unit()
      * math.min(speed * dials.gain, dials.limit)
end
