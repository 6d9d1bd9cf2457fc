<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

/**
 * Who reads and changes clusters without being a person. What such an actor learns is shown to a person only as far as a
 * decision for that person allows.
 */
enum SystemActor: string
{
    case Collector = 'collector';
    case Audit = 'audit';
    case Rehearsal = 'rehearsal';
    case Maintenance = 'maintenance';
    case Refresh = 'rollup refresh';
    case Jobs = 'job runner';
    case Policy = 'policy';
    case Sessions = 'session keeper';
    case Meter = 'meter';
    case Health = 'health';
    case Settings = 'settings keeper';
    case Demo = 'demo';

    public function describe(): string
    {
        return match ($this) {
            self::Collector => 'reads what live servers count',
            self::Audit => 'holds the layout of tables against the house rules',
            self::Rehearsal => 'tries changes, measures and applies them once they are approved',
            self::Maintenance => 'keeps tables in order and forgets old versions',
            self::Refresh => 'brings rollups and lookups up to their tables',
            self::Jobs => 'runs parallel jobs',
            self::Policy => 'reads the catalog, trees of values and samples the policy needs',
            self::Sessions => 'stops statements and sessions of live servers that people have asked it to stop',
            self::Meter => 'reads how large tables are and what takes space',
            self::Health => 'computes what nodes of practice clusters do and runs probes',
            self::Settings => 'reads how hosts and servers are set, and sets what approved changes say',
            self::Demo => 'runs the statements of the demo',
        };
    }
}
