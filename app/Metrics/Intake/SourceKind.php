<?php

declare(strict_types=1);

namespace App\Metrics\Intake;

/**
 * How it is known what a host does.
 */
enum SourceKind: string
{
    case Own = 'own';
    case Agent = 'agent';
    case Otlp = 'otlp';
    case Scrape = 'scrape';
    case Modelled = 'modelled';

    public function label(): string
    {
        return match ($this) {
            self::Own => 'this host, from /proc',
            self::Agent => 'agent',
            self::Otlp => 'OTLP',
            self::Scrape => 'OpenMetrics',
            self::Modelled => 'modelled',
        };
    }
}
