<?php

declare(strict_types=1);

namespace Fulcrion\Core\Capacity;

/**
 * A part of what is stored.
 */
final readonly class StoredPart
{
    public function __construct(public PartKind $kind, public string $object, public float $bytes)
    {
    }

    public function name(): string
    {
        return $this->kind->of($this->object);
    }

    /**
     * What became more or less between two moments, the largest change first.
     *
     * @param  list<self>  $before
     * @param  list<self>  $after
     * @return list<self> bytes are what came, below 0 what went
     */
    public static function changed(array $before, array $after): array
    {
        $changed = [];
        foreach ([[-1.0, $before], [1.0, $after]] as [$sign, $parts]) {
            foreach ($parts as $part) {
                $known = $changed[$part->name()]->bytes ?? 0.0;
                $changed[$part->name()] = new self($part->kind, $part->object, $known + $sign * $part->bytes);
            }
        }
        $changed = array_filter($changed, static fn (self $part): bool => abs($part->bytes) >= 1.0);
        usort($changed, static fn (self $a, self $b): int => [abs($b->bytes), $a->name()] <=> [abs($a->bytes), $b->name()]);

        return $changed;
    }
}
