<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * What a finding is about.
 */
final readonly class FindingSubject
{
    /**
     * @param  string  $name of a table, policy item, job or account; empty for a statement wherever it reads
     * @param  string|null  $statement fingerprint
     */
    private function __construct(public SubjectKind $kind, public string $name, public ?string $statement = null)
    {
    }

    public static function item(string $name, ?string $statement = null): self
    {
        return new self(SubjectKind::Item, $name, $statement);
    }

    public static function statement(string $fingerprint): self
    {
        return new self(SubjectKind::Statement, '', $fingerprint);
    }

    public static function job(string $name): self
    {
        return new self(SubjectKind::Job, $name);
    }

    public static function account(string $name): self
    {
        return new self(SubjectKind::Account, $name);
    }

    /** As it is kept. */
    public function key(): string
    {
        return match ($this->kind) {
            SubjectKind::Item => $this->name.($this->statement === null ? '' : "#{$this->statement}"),
            SubjectKind::Statement => "statement:{$this->statement}",
            default => "{$this->kind->value}:{$this->name}",
        };
    }

    public static function read(string $key): self
    {
        foreach ([SubjectKind::Job, SubjectKind::Account, SubjectKind::Statement] as $kind) {
            if (str_starts_with($key, "{$kind->value}:")) {
                $rest = substr($key, strlen($kind->value) + 1);

                return $kind === SubjectKind::Statement ? self::statement($rest) : new self($kind, $rest);
            }
        }

        return preg_match('~^(.*)#([0-9a-f]{32})$~s', $key, $parts) === 1 ? self::item($parts[1], $parts[2]) : self::item($key);
    }

    /** The table it is about; empty where it is about a statement, a job or a person. */
    public function table(): string
    {
        return $this->kind === SubjectKind::Item ? $this->name : '';
    }

    /** For people. */
    public function shown(): string
    {
        return match (true) {
            $this->kind === SubjectKind::Statement => 'statement '.substr((string) $this->statement, 0, 8),
            $this->statement !== null => "{$this->name}, statement ".substr($this->statement, 0, 8),
            default => $this->name,
        };
    }
}
