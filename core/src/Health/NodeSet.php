<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * The nodes of a cluster: how they are called, what each can do, and what is wrong with some.
 */
final readonly class NodeSet
{
    /**
     * @param  non-empty-list<string>  $names
     * @param  list<NodeCondition>  $conditions
     */
    public function __construct(public NodeShape $shape, public array $names, public array $conditions = [])
    {
    }

    /** Part of its throughput a node's disk has at a moment. */
    public function diskShare(int $node, int $atUs): float
    {
        $share = 1.0;
        foreach ($this->conditions as $condition) {
            if ($condition->node === $node && $condition->fromUs <= $atUs) {
                $share = $condition->diskShare;
            }
        }

        return $share;
    }
}
