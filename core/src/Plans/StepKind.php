<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * What a step does, whichever engine it is of.
 */
enum StepKind: string
{
    case Scan = 'scan';
    case IndexRead = 'index-read';
    case Values = 'values';
    case Filter = 'filter';
    case Compute = 'compute';
    case HashJoin = 'hash-join';
    case LoopJoin = 'loop-join';
    case CrossJoin = 'cross-join';
    case Aggregate = 'aggregate';
    case PartialAggregate = 'partial-aggregate';
    case Distinct = 'distinct';
    case Sort = 'sort';
    case Top = 'top';
    case Limit = 'limit';
    case Window = 'window';
    case Append = 'append';
    case Gather = 'gather';
    case Broadcast = 'broadcast';
    case Repartition = 'repartition';
    case Subquery = 'subquery';
    case Store = 'store';
    case Result = 'result';
    case Other = 'other';

    public function label(): string
    {
        return match ($this) {
            self::Scan => 'Read',
            self::IndexRead => 'Look up',
            self::HashJoin => 'Hash join',
            self::LoopJoin => 'Loop join',
            self::CrossJoin => 'Cross join',
            self::PartialAggregate => 'Aggregate per node',
            self::Top => 'Keep the first',
            self::Append => 'Put together',
            self::Store => 'Keep aside',
            default => ucfirst($this->value),
        };
    }

    public function isJoin(): bool
    {
        return $this === self::HashJoin || $this === self::LoopJoin || $this === self::CrossJoin;
    }

    public function isExchange(): bool
    {
        return $this === self::Gather || $this === self::Broadcast || $this === self::Repartition;
    }
}
