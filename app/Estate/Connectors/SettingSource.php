<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * How hosts or servers are set, and a way to set what can be set from here.
 */
interface SettingSource
{
    /**
     * @return array<string, array<string, string>> by host; what is a server's own stands below ''
     *
     * @throws SourceError
     */
    public function settings(): array;

    /** Whether it can be set from here, as far as is known before it is tried. */
    public function canSet(string $name): bool;

    /**
     * Sets a setting to what it is, which shows that it may be set while everything runs.
     *
     * @return string its value
     *
     * @throws SourceError where it cannot be set from here
     */
    public function trySetting(string $host, string $name): string;

    /** @throws SourceError */
    public function set(string $host, string $name, string $value): void;
}
