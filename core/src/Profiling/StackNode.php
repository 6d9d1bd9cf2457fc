<?php

declare(strict_types=1);

namespace Fulcrion\Core\Profiling;

/**
 * A function where it was called from one and the same place.
 */
final class StackNode
{
    /** With all it called. */
    public float $total = 0.0;

    /** Itself. */
    public float $own = 0.0;

    /** @var array<string, StackNode> by name */
    public array $children = [];

    public function __construct(public readonly string $name)
    {
    }

    /**
     * The one at the end of a path.
     *
     * @param  list<string>  $path names below this one
     */
    public function at(array $path): ?self
    {
        $node = $this;
        foreach ($path as $name) {
            $node = $node->children[$name] ?? null;
            if ($node === null) {
                return null;
            }
        }

        return $node;
    }
}
