<?php

declare(strict_types=1);

namespace App\Workbench\Http\Requests;

use App\Workbench\Application\Workbench;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to WorkbenchController::run().
 */
final class RunStatementsRequest extends FormRequest
{
    /** A form sends two characters for the end of a line where the editor counts one. */
    protected function prepareForValidation(): void
    {
        if (is_string($this->input('sql'))) {
            $this->merge(['sql' => str_replace("\r\n", "\n", $this->input('sql'))]);
        }
    }

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', 'exists:clusters,slug'],
            'schema' => ['nullable', 'string', 'max:64'],
            'sql' => ['required', 'string', 'max:200000'],
            'mode' => ['required', 'in:'.implode(',', Workbench::MODES)],
            'key' => ['required', 'uuid', 'unique:workbench_runs,key'],
            'at' => ['nullable', 'integer', 'min:0'],
            'which' => ['nullable', 'in:one,all'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['sql.required' => 'Write a statement first.', 'key.unique' => 'This run was already started; send it again.'];
    }
}
