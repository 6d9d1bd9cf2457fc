<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * Why something is closed, or shown in part.
 */
final readonly class Cause
{
    public const NO_USE = 'no use';

    public const NO_GRANT = 'no grant';

    public const DENY_GRANT = 'deny grant';

    public const RULE_DENY = 'rule denies';

    public const RULE_HIDE = 'rule hides';

    public const RULE_MASK = 'rule masks';

    public const RULE_ERROR = 'rule in error';

    public const NO_OWNER = 'no owner';

    public const LINEAGE = 'through a view';

    public const ORIGIN = 'of its origin';

    public const HASH = 'hash could be guessed';

    public function __construct(
        public string $kind,
        /** Of the grant or rule; the privilege that is missing; the column it flows from. */
        public string $name,
        /** Where it stands, or what it is about. */
        public string $at,
        public string $detail = '',
    ) {
    }

    public function __toString(): string
    {
        return match ($this->kind) {
            self::NO_USE => "no use of {$this->at}",
            self::NO_GRANT => "no grant of {$this->name} on {$this->at} or above",
            self::DENY_GRANT => "grant {$this->name} denies it at {$this->at}",
            self::RULE_DENY => "rule {$this->name} denies it",
            self::RULE_HIDE => "rule {$this->name} hides it",
            self::RULE_MASK => "rule {$this->name} masks it",
            self::RULE_ERROR => "rule {$this->name} is in error: {$this->detail}",
            self::NO_OWNER => "{$this->at} has no owner whose rights it could read with",
            self::ORIGIN => "its rows come from {$this->at}".($this->detail === '' ? '' : ", and {$this->detail}"),
            self::HASH => "values could be put into {$this->at} and their hashes read, so no hash is shown",
            default => "it comes from {$this->at}".($this->detail === '' ? '' : ", and {$this->detail}"),
        };
    }
}
