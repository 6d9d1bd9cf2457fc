<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

/**
 * What usage is grouped by, and what each leads to one step deeper.
 */
enum UsageField: string
{
    case Team = 'team';
    case Application = 'application';
    case Person = 'person';
    case Queue = 'queue';
    case Database = 'database';
    case Cluster = 'on';
    case Statement = 'statement';

    /**
     * Those a change is explained by.
     *
     * @return list<self>
     */
    public static function steps(): array
    {
        return [self::Team, self::Application, self::Person, self::Statement];
    }

    /**
     * Those cost is given to: what a cluster cost is known without them.
     *
     * @return list<self>
     */
    public static function ofCost(): array
    {
        return array_values(array_filter(self::cases(), static fn (self $one): bool => $one !== self::Cluster));
    }

    /** Of the facts f, teams t, origins o, clusters c and statements s. */
    public function column(): string
    {
        return match ($this) {
            self::Team => 't.name',
            self::Application => 'o.application',
            self::Person => 'o.user_name',
            self::Queue => 'o.queue_name',
            self::Database => 'o.database_name',
            self::Cluster => 'c.slug',
            self::Statement => 's.fingerprint',
        };
    }

    /** What the facts know it by. */
    public function key(): string
    {
        return match ($this) {
            self::Team => 'team_id',
            self::Cluster => 'cluster_id',
            self::Statement => 'statement_id',
            default => 'origin_id',
        };
    }

    public function join(): string
    {
        return match ($this) {
            self::Team => 'JOIN usage_teams t ON t.id = f.team_id',
            self::Cluster => 'JOIN clusters c ON c.id = f.cluster_id',
            self::Statement => 'JOIN statements s ON s.id = f.statement_id',
            default => 'JOIN origins o ON o.id = f.origin_id',
        };
    }

    /** Whether it may have so many values that nobody wants to see all. */
    public function isMany(): bool
    {
        return in_array($this, [self::Person, self::Statement], true);
    }

    /** Whether it tells who ran something, and from where. */
    public function isOfOrigin(): bool
    {
        return ! in_array($this, [self::Team, self::Cluster, self::Statement], true);
    }

    public function deeper(): ?self
    {
        return match ($this) {
            self::Team => self::Application,
            self::Application, self::Queue, self::Database, self::Cluster => self::Person,
            self::Person => self::Statement,
            self::Statement => null,
        };
    }

    public function label(): string
    {
        return $this === self::Cluster ? 'cluster' : $this->value;
    }

    public function plural(): string
    {
        return $this === self::Person ? 'people and accounts' : "{$this->label()}s";
    }

    /** Where nothing is said. */
    public function none(): string
    {
        return $this === self::Statement ? '' : '(none)';
    }
}
