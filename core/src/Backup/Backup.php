<?php

declare(strict_types=1);

namespace Fulcrion\Core\Backup;

/**
 * One backup as whoever took it told of it, and what checking its files showed. Times are microseconds since 1970.
 */
final readonly class Backup
{
    /**
     * @param  string  $plan what is taken again and again has one name
     * @param  non-empty-list<string>  $schemas
     * @param  int|null  $bytes null where nobody said
     * @param  string  $place where it is kept; empty where nobody said
     * @param  string|null  $failure why there is none; null where it was taken
     * @param  int|null  $removedUs when it was thrown away
     * @param  int|null  $checkedUs when its files were held against their checksums last
     * @param  list<string>  $damage what that showed, each with the name of the file; empty where all was as it should be
     */
    public function __construct(
        public string $plan,
        public BackupKind $kind,
        public array $schemas,
        public int $startedUs,
        public int $endedUs,
        public ?int $bytes = null,
        public string $place = '',
        public ?string $failure = null,
        public ?int $removedUs = null,
        public ?int $checkedUs = null,
        public array $damage = [],
        public ?int $id = null,
    ) {
    }

    /** For people: what is wrong with it by itself; empty where nothing is known to be. */
    public function trouble(): string
    {
        return $this->failure ?? ($this->damage[0] ?? '').(count($this->damage) > 1 ? ' and '.(count($this->damage) - 1).' more' : '');
    }

    public function isKept(int $atUs): bool
    {
        return $this->failure === null && $this->endedUs <= $atUs && ($this->removedUs === null || $this->removedUs > $atUs);
    }
}
