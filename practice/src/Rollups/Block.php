<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Logical\FilterNode;
use Fulcrion\Practice\Logical\JoinNode;
use Fulcrion\Practice\Logical\Project;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Scan;

/**
 * Tables joined and filtered, taken apart: which tables, and which conditions all rows meet.
 */
final readonly class Block
{
    /**
     * @param  list<Scan>  $scans
     * @param  list<Expr>  $conditions over columns of the scans
     * @param  array<int, Expr>  $computed columns that are made on the way, by id, over columns of the scans
     */
    private function __construct(public array $scans, public array $conditions, public array $computed)
    {
    }

    /** Or in words why it is none. */
    public static function of(RelationNode $relation): self|string
    {
        if ($relation instanceof Scan) {
            return new self([$relation], $relation->conditions, []);
        }
        if ($relation instanceof JoinNode && $relation->kind !== JoinNode::INNER) {
            return 'rows are joined in another way than by an inner join before they are grouped';
        }
        if (! ($relation instanceof FilterNode) && ! ($relation instanceof Project) && ! ($relation instanceof JoinNode)) {
            return 'what is grouped is not plain tables';
        }
        $scans = $conditions = $computed = [];
        foreach ($relation->inputs() as $input) {
            $part = self::of($input);
            if (is_string($part)) {
                return $part;
            }
            array_push($scans, ...$part->scans);
            array_push($conditions, ...$part->conditions);
            $computed += $part->computed;
        }
        foreach ($relation->expressions() as $e) {
            if ($e->hasSubquery()) {
                return 'a subquery stands in what is grouped';
            }
        }
        if ($relation instanceof Project) {
            foreach ($relation->fields as $i => $field) {
                $computed[$field->id] = $relation->values[$i]->substitute($computed);
            }
        } else {
            array_push($conditions, ...array_map(static fn (Expr $e): Expr => $e->substitute($computed), $relation->expressions()));
        }

        return new self($scans, $conditions, $computed);
    }
}
