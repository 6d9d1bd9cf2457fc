<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

/**
 * How a change is undone.
 */
final readonly class Inverse
{
    /**
     * @param  list<string>  $statements
     */
    private function __construct(public InverseKind $kind, public array $statements = [])
    {
    }

    public static function none(): self
    {
        return new self(InverseKind::None);
    }

    /**
     * @param  list<string>  $statements to be run
     */
    public static function statements(array $statements): self
    {
        return $statements === [] ? self::none() : new self(InverseKind::Statements, $statements);
    }

    /** By publishing the version before again, which has a number only when the change is applied. */
    public static function version(): self
    {
        return new self(InverseKind::Version);
    }

    /** By the layout before: the kept table gets its name back, or is built again. */
    public static function layout(): self
    {
        return new self(InverseKind::Layout);
    }
}
