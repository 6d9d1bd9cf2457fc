<?php

declare(strict_types=1);

namespace App\Health\Http\Requests;

use App\Estate\Models\Cluster;
use Closure;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Normaliser;
use Fulcrion\Core\Sql\StatementKind;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to ProbeController::set().
 */
final class SetProbeRequest extends FormRequest
{
    /** A form sends two characters for the end of a line where people count one. */
    protected function prepareForValidation(): void
    {
        if (is_string($this->input('statement'))) {
            $this->merge(['statement' => trim(str_replace("\r\n", "\n", $this->input('statement')))]);
        }
    }

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')],
            'statement' => ['required', 'string', 'max:4000', $this->reads(...)],
            'schema' => ['nullable', 'string', 'max:64', 'regex:~^[\w$]+$~u'],
            'minutes' => ['required', 'integer', 'between:1,60'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'cluster.*' => 'Choose a cluster.',
            'statement.required' => 'Write the statement the probe runs.',
            'statement.max' => 'A probe is a short statement, of 4000 characters at most.',
            'schema.*' => 'Write the name of a schema, or leave it empty.',
            'minutes.*' => 'A probe runs every 1 to 60 minutes.',
        ];
    }

    private function reads(string $field, mixed $value, Closure $fail): void
    {
        $cluster = Cluster::query()->where('slug', $this->input('cluster'))->first();
        $text = (new Normaliser($cluster->dialect ?? Dialect::Ansi))->normalise(is_string($value) ? $value : '');
        if (StatementKind::ofNormalised($text) !== StatementKind::Read) {
            $fail('A probe only reads: write one SELECT.');
        }
    }
}
